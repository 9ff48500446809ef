<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class ScaleParameters
{
    public function __construct(
        #[Param('Factor', 'Everything becomes so many times larger.', positive: true, max: 1000000.0)]
        public ?float $factor = null,
        #[Param('Measured on the mesh', 'A length as it is now.', unit: 'mm', positive: true)]
        public ?float $measured = null,
        #[Param('Actual', 'The same length on the real part.', unit: 'mm', positive: true)]
        public ?float $actual = null,
    ) {
        if (($factor === null) !== ($measured !== null && $actual !== null) || ($factor !== null && ($measured !== null || $actual !== null))) {
            throw InvalidParameter::of('factor', 'or both measured and actual are required');
        }
    }

    public function value(): float
    {
        return $this->factor ?? (float) $this->actual / (float) $this->measured;
    }
}
