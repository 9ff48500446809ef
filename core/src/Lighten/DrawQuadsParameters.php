<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `draw-quads` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class DrawQuadsParameters
{
    /**
     * @param  array<mixed>  $points  places [x, y, z] in mm
     * @param  array<mixed>  $faces  each a list of three or four indices of points, in order around the cell
     * @param  string|null  $onto  name or id of the body that the points cling to; the only mesh if left out
     */
    public function __construct(
        #[Param('Points', 'Corners of cells, put on the surface.', picks: 'points')]
        public array $points,
        #[Param('Cells', 'Each names three or four of the points, counted from 0.', picks: 'recipe')]
        public array $faces,
        #[Param('Onto', 'The body that the points cling to.', picks: 'ground', empty: 'the only one')]
        public ?string $onto = null,
        #[Param('Name', 'Of the new body.')]
        public string $name = 'Drawn',
    ) {
        $many = count(Places::checked('points', $points));
        if (trim($name) === '') {
            throw InvalidParameter::of('name', 'is empty; leave it out, or name the body');
        }
        if ($faces === []) {
            throw InvalidParameter::of('faces', 'holds no cell; give each as a list of three or four indices of points');
        }
        foreach (array_values($faces) as $k => $cell) {
            if (! is_array($cell) || ! in_array(count($cell), [3, 4], true) || array_filter($cell, fn (mixed $v) => ! is_int($v) || $v < 0 || $v >= $many) !== [] || count(array_unique($cell)) !== count($cell)) {
                throw InvalidParameter::of('faces', 'cell '.($k + 1).sprintf(' must name three or four different points, counted from 0 to %d', $many - 1));
            }
        }
    }

    /** @return list<array{float, float, float}> the points, mm of the project */
    public function places(): array
    {
        return Places::checked('points', $this->points);
    }

    /** @return list<list<int>> three or four numbers of points each */
    public function cells(): array
    {
        return array_map(array_values(...), array_values($this->faces));
    }
}
