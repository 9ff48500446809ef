<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `scale` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ScaleParameters
{
    /** @param  array<mixed>|null  $lengths  list of {from, to, actual}: a datum's name or a place at each end, mm */
    public function __construct(
        #[Param('Factor', 'Lengths are multiplied by it.', positive: true, max: 1000000.0)]
        public ?float $factor = null,
        #[Param('Measured on the mesh', 'A length as it is now.', unit: 'mm', positive: true)]
        public ?float $measured = null,
        #[Param('Actual', 'The same length on the real part.', unit: 'mm', positive: true)]
        public ?float $actual = null,
        #[Param('Known lengths', 'Lengths measured on the real part, between picked places or datums; several are balanced.', picks: 'lengths')]
        public ?array $lengths = null,
        #[Param('Read to', 'How far off a reading of the real part may be: what the caliper or rule is good for.', unit: 'mm', min: 0.0, max: 100.0)]
        public float $readTo = KnownLength::CALIPER,
    ) {
        if ($lengths !== null) {
            if ($factor !== null || $measured !== null || $actual !== null) {
                throw InvalidParameter::of('lengths', 'excludes factor, measured and actual; give one');
            }
            $this->known();

            return;
        }
        if (($factor === null) !== ($measured !== null && $actual !== null) || ($factor !== null && ($measured !== null || $actual !== null))) {
            throw InvalidParameter::of('factor', 'or both measured and actual are required');
        }
    }

    public function value(): float
    {
        return $this->factor ?? (float) $this->actual / (float) $this->measured;
    }

    /**
     * @return list<KnownLength>
     *
     * @throws InvalidParameter
     */
    public function known(): array
    {
        if ($this->lengths === []) {
            throw InvalidParameter::of('lengths', 'is empty; give one length or more');
        }

        return KnownLength::all($this->lengths ?? []);
    }
}
