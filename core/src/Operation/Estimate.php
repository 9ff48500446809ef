<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** What an operation will cost, said before it runs. */
final readonly class Estimate
{
    public function __construct(
        public float $seconds,
        public float $memoryMb,
        public ?int $faces = null,
        public ?string $refusal = null,
    ) {
    }
}
