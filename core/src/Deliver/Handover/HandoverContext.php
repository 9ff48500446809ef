<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

/** What a report says besides what was handed over: who, when, and how it came about. */
final readonly class HandoverContext
{
    /**
     * @param  \DateTimeImmutable  $at  when it was handed over
     * @param  string|null  $by  who handed it over
     * @param  bool  $isOriented  a frame was set
     * @param  list<array{label: string, what: string, notes: list<string>}>  $steps  of the ledger, the first first
     * @param  list<array<string, mixed>>  $measurements  see Measuring\Measurement::toArray()
     * @param  list<array<string, mixed>>  $comparisons  see Compare, lengths in mm
     * @param  string  $version  of the software
     */
    public function __construct(
        public \DateTimeImmutable $at,
        public ?string $by,
        public bool $isOriented,
        public array $steps,
        public array $measurements,
        public array $comparisons,
        public string $version,
    ) {
    }
}
