<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Nobody is watching. */
final class NoProgress implements Progress
{
    public function advance(string $stage, float $fraction): void
    {
    }
}
