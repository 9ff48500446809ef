<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class KeepPiecesParameters
{
    public function __construct(
        #[Param('Keep the largest', 'How many pieces stay, by area.', min: 1, max: 100000)]
        public ?int $largest = null,
        #[Param('Least area', 'Pieces smaller than this go.', unit: 'mm²', min: 0.0)]
        public ?float $minArea = null,
    ) {
        if (($largest === null) === ($minArea === null)) {
            throw InvalidParameter::of('largest', $largest === null ? 'or minArea is required' : 'and minArea exclude each other; give one');
        }
    }
}
