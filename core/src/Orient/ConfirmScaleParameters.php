<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `confirm-scale` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ConfirmScaleParameters
{
    /** @param  array<mixed>|null  $lengths  list of {from, to, actual}: a datum's name or a place at each end, mm */
    public function __construct(
        #[Param('Known lengths', 'Lengths read on the real part, between picked places or datums; without any the size of all is confirmed as it is shown.', picks: 'lengths')]
        public ?array $lengths = null,
        #[Param('Read to', 'How far off a reading of the real part may be: what the caliper or rule is good for.', unit: 'mm', min: 0.0, max: 100.0)]
        public float $readTo = KnownLength::CALIPER,
    ) {
        if ($lengths === []) {
            throw InvalidParameter::of('lengths', 'is empty; give one length or more, or leave it out');
        }
        $this->known();
    }

    /** @return list<KnownLength> */
    public function known(): array
    {
        return KnownLength::all($this->lengths ?? []);
    }
}
