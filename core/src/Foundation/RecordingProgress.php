<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Remembers every report; stops the operation at a given fraction. For tests. */
final class RecordingProgress implements Progress
{
    /** @var list<float> */
    public array $fractions = [];

    public function __construct(private readonly float $stopAt = INF)
    {
    }

    public function advance(string $stage, float $fraction): void
    {
        $this->fractions[] = $fraction;
        if ($fraction >= $this->stopAt) {
            throw OperationCancelled::onRequest();
        }
    }
}
