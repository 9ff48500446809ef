<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `keep-pieces` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class KeepPiecesParameters
{
    /** @param  array<mixed>|null  $at  a place on each piece to keep, mm */
    public function __construct(
        #[Param('Keep the largest', 'How many pieces stay, by area.', min: 1, max: 100000)]
        public ?int $largest = null,
        #[Param('Least area', 'Pieces smaller than this go.', unit: 'mm²', min: 0.0)]
        public ?float $minArea = null,
        #[Param('Picked', 'The pieces at these places stay.', picks: 'points')]
        public ?array $at = null,
    ) {
        $given = count(array_filter([$largest, $minArea, $at], fn ($one) => $one !== null));
        if ($given !== 1) {
            throw InvalidParameter::of('largest', $given === 0 ? 'or minArea or at is required' : ', minArea and at exclude each other; give one');
        }
        if ($at !== null && Places::checked('at', $at) === []) {
            throw InvalidParameter::of('at', 'is empty; give a place on each piece to keep');
        }
    }
}
