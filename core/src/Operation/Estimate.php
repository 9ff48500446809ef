<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** What an operation will cost, said before it runs. */
final readonly class Estimate
{
    /**
     * @param  string|null  $refusal  why it would not run
     * @param  string|null  $advice  what the parameters keep and lose, and what the data would bear
     */
    public function __construct(
        public float $seconds,
        public float $memoryMb,
        public ?int $faces = null,
        public ?string $refusal = null,
        public ?string $advice = null,
    ) {
    }
}
