<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Told how far an operation is; the way a running operation learns that it should stop. */
interface Progress
{
    /**
     * @param  string  $stage  what is being done, in words
     * @param  float  $fraction  0 to 1 of the whole operation; never falls
     *
     * @throws OperationCancelled
     */
    public function advance(string $stage, float $fraction): void;
}
