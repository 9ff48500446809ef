<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Maps the 0 to 1 of a part onto a stretch of the whole. */
final class PartProgress implements Progress
{
    public function __construct(
        private readonly Progress $whole,
        private readonly float $from,
        private readonly float $to,
    ) {
    }

    public function advance(string $stage, float $fraction): void
    {
        $this->whole->advance($stage, $this->from + ($this->to - $this->from) * min(1.0, max(0.0, $fraction)));
    }
}
