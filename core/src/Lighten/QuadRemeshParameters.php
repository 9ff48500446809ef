<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Quads\GuideStrokes;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `quad-remesh` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class QuadRemeshParameters
{
    /**
     * @param  array<mixed>  $flow  strokes, each a list of places [x, y, z] in mm
     * @param  array<mixed>  $edges  the same
     */
    public function __construct(
        #[Param('Edge', 'Length of the sides of cells.', unit: 'mm', positive: true)]
        public ?float $edge = null,
        #[Param('Faces', 'Cells of the result, of all bodies together.', min: 20, max: 2_000_000)]
        public ?int $faces = null,
        #[Param('Cells', 'Four-sided cells alone, with triangles where rows of cells end, or triangles that follow the shape as cells do.', choices: ['quads', 'mostly-quads', 'triangles'])]
        public string $cells = 'quads',
        #[Param('Sharp', 'Edges where the surface turns by more become sides of cells.', unit: 'deg', min: 5.0, max: 180.0)]
        public float $sharp = 40.0,
        #[Param('Flow strokes', 'Lines on the surface that sides of cells run along.', picks: 'strokes')]
        public array $flow = [],
        #[Param('Edge strokes', 'Lines on the surface that become sides of cells.', picks: 'strokes')]
        public array $edges = [],
        #[Param('Deviation', 'How far the surface may move; where it would move farther, all cells become smaller. Verified afterwards, both ways.', unit: 'mm', positive: true)]
        public ?float $deviation = null,
    ) {
        if (($edge === null) === ($faces === null)) {
            throw InvalidParameter::of('edge', $edge === null ? 'or faces is required: one of the two' : 'is given together with faces; give one of the two');
        }
        self::checked('flow', $flow);
        self::checked('edges', $edges);
    }

    /** What guides the cells, mm of the project. */
    public function strokes(): GuideStrokes
    {
        return new GuideStrokes(self::checked('flow', $this->flow), self::checked('edges', $this->edges));
    }

    /** The side of cells of which a number cover an area, mm. */
    public function edgeFor(float $area, float $cells): float
    {
        return sqrt(($this->cells === 'triangles' ? 2.0 : 1.0) * $area / max(1.0, $cells));
    }

    /**
     * @param  array<mixed>  $strokes
     * @return list<list<array{float, float, float}>>
     */
    private static function checked(string $parameter, array $strokes): array
    {
        $checked = [];
        foreach ($strokes as $stroke) {
            $places = Places::checked($parameter, $stroke);
            if (count($places) < 2) {
                throw InvalidParameter::of($parameter, 'stroke '.(count($checked) + 1).' needs two places or more');
            }
            $checked[] = $places;
        }

        return $checked;
    }
}
