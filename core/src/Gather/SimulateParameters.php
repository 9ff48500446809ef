<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

/** What `simulate` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SimulateParameters
{
    public function __construct(
        #[Param('Part', 'What stands before the scanner: the demo world of the cider press.', choices: ['pedestal', 'pedestal-with-bar', 'cap', 'bush', 'assembly', 'ratchet-wheel', 'finial', 'target', 'press-hall'])]
        public string $part = 'pedestal',
        #[Param('Rig', 'The scanner: carried by hand (bare: without a table in view; steady: no drift inside a capture; off scale: all it measures is too long), before a turntable, a ring of four fixed heads, or on a tripod in a room.', choices: ['handheld', 'handheld-bare', 'handheld-steady', 'handheld-off-scale', 'turntable', 'ring', 'tripod'])]
        public string $rig = 'handheld',
        #[Param('Surface', 'How the part answers light; glassy: in places it goes in and comes back from within.', choices: ['matt', 'shiny', 'dark', 'glassy'])]
        public string $surface = 'matt',
        #[Param('Matting spray', 'Sprayed, any surface is matt.')]
        public bool $spray = false,
        #[Param('Marker dots', 'Glue white dots with a black ring onto the part.')]
        public bool $dots = false,
        #[Param('Radius of a dot', 'Of the white disc.', unit: 'mm', min: 0.5, max: 20.0)]
        public float $dotRadius = 3.0,
        #[Param('Spacing of dots', 'No two are nearer than this.', unit: 'mm', min: 5.0, max: 500.0)]
        public float $dotSpacing = 35.0,
        #[Param('Seed', 'Another number, other noise; the same number, the same scan.', min: 0, max: 1000000)]
        public int $seed = 1,
        #[Param('Density', 'Points on a square centimetre where the camera looks straight on; as the rig has it when left empty.', unit: '1/cm²', min: 0.1, max: 100000.0)]
        public ?float $density = null,
    ) {
    }
}
