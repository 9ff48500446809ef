<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\SelectionParameters;

/** What `decimate` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class DecimateParameters
{
    /** @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection  see SelectionParameters */
    public function __construct(
        #[Param('Share to keep', 'Faces of the result as a share of the faces now.', unit: 'share', positive: true, max: 1.0)]
        public ?float $ratio = null,
        #[Param('Faces', 'Faces of the result.', min: 4)]
        public ?int $faces = null,
        #[Param('Deviation', 'How far the surface may move. Verified afterwards.', unit: 'mm', positive: true)]
        public ?float $deviation = null,
        #[Param('Keep rims', 'Open rims keep their shape.')]
        public bool $keepBoundary = true,
        #[Param('Selection', SelectedArea::SELECTION, picks: 'selection')]
        public ?array $selection = null,
        #[Param('Finer there', SelectedArea::FINER, min: 1.0, max: SelectedArea::FINEST, empty: 'left alone')]
        public ?float $finer = null,
    ) {
        if ($selection !== null) {
            new SelectionParameters($selection);
        }
        $given = count(array_filter([$ratio, $faces, $deviation], fn ($v) => $v !== null));
        if ($given !== 1) {
            throw InvalidParameter::of('ratio', $given === 0 ? 'or faces or deviation is required: one of the three' : 'is given together with another; give one of ratio, faces and deviation');
        }
    }
}
