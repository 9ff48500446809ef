<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class SetFrameParameters
{
    private const AXES = ['+x', '-x', '+y', '-y', '+z', '-z'];

    public function __construct(
        #[Param('First datum', 'Decides most: a plane becomes a base, an axis a main axis.', picks: 'names')]
        public string $first,
        #[Param('First points along', 'Where the normal or axis of the first datum shall point.', choices: self::AXES)]
        public string $firstAs = '-z',
        #[Param('Second datum', 'Takes away the turn that the first one left.', picks: 'names')]
        public ?string $second = null,
        #[Param('Second points along', 'Where the normal or axis of the second datum shall point.', choices: self::AXES)]
        public string $secondAs = '+x',
        #[Param('Third datum', 'Takes away what is still free.', picks: 'names')]
        public ?string $third = null,
    ) {
        if ($firstAs[1] === $secondAs[1] && $second !== null) {
            throw InvalidParameter::of('secondAs', "is $secondAs, but the first datum takes the {$firstAs[1]} axis already; choose another axis");
        }
    }
}
