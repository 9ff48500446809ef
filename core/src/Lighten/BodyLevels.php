<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Remeshing\ProgressiveMesh;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;

/**
 * A body at every count of faces: its collapses, and how far the surface lies off at some counts (the stops). An artefact of kind `levels`.
 *
 * What it holds, of each collapse: `kept` and `gone`, the vertices of the body's blob (u32), `places`, where the kept one goes (three f32, in the numbers of the body's geometry from `middle`), and the
 * faces `left` (u32). Of each stop: `collapses`, `faces`, `p95` and `farthest` of the distances found (mm); `shades` has a byte a vertex of the level, in the order of
 * the body's blob, stop after stop: 1 + 254 times the square root of its distance over the farthest, so that one far place leaves the small distances apart.
 *
 * @phpstan-type Stop array{collapses: int, faces: int, p95: float, farthest: float, shades: string}
 */
final readonly class BodyLevels
{
    public const KIND = 'levels';

    /** Places measured in each direction at a stop at most: every second, third, ... is taken of more. */
    private const SAMPLES = 20_000;

    /** mm: a distance below it is rounding. */
    private const NONE = 1e-9;

    /** @param  list<Stop>  $stops */
    private function __construct(private Body $body, private ProgressiveMesh $mesh, public array $stops)
    {
    }

    /**
     * Measures a mesh at the counts of faces asked for.
     *
     * @param  Body  $body  whose own geometry, in mm, the mesh is
     * @param  list<int>  $counts  of faces, falling
     */
    public static function measured(Body $body, TriangleMesh $whole, ProgressiveMesh $mesh, array $counts, Progress $progress): self
    {
        $tree = TriangleBvh::of($whole->positions, $whole->faces);
        $tasks = array_map(fn (int $faces) => function () use ($whole, $mesh, $tree, $faces): string {
            $collapses = $mesh->collapsesTo($faces);
            [$found, $away] = self::away($whole, $mesh->at($collapses), $tree);
            $farthest = max([0.0, ...$found, ...$away]);

            return Packed::longs([$collapses, $mesh->facesAt($collapses)]).Packed::doubles([self::quantile($found, 0.95), $farthest]).Packed::bytes(array_map(fn (float $d) => 1 + (int) round(254.0 * sqrt($d / max(self::NONE, $farthest))), $away));
        }, $counts);
        $stops = array_map(function (string $bytes): array {
            [$collapses, $faces] = Packed::toLongs(substr($bytes, 0, 16));
            [$p95, $farthest] = Packed::toDoubles(substr($bytes, 16, 16));

            return ['collapses' => $collapses, 'faces' => $faces, 'p95' => $p95, 'farthest' => $farthest, 'shades' => substr($bytes, 32)];
        }, Fork::map($tasks, Cores::count(), $progress, 'measuring'));

        return new self($body, $mesh, $stops);
    }

    /** @param  list<float>  $values */
    private static function quantile(array $values, float $share): float
    {
        sort($values);

        return $values === [] ? 0.0 : $values[(int) ceil($share * (count($values) - 1))];
    }

    /**
     * How far a level and the whole lie apart, mm: at some vertices of the whole and at the middles of some faces of the level; then for each vertex of the level, its own distance from the whole and
     * that of the vertices whose place it took from the level.
     *
     * @param  array{positions: list<float>, faces: list<int>, of: array<int, int>}  $level
     * @return array{list<float>, list<float>}
     */
    private static function away(TriangleMesh $whole, array $level, TriangleBvh $tree): array
    {
        $P = $level['positions'];
        $F = $level['faces'];
        if ($F === []) {
            return [[], array_fill(0, intdiv(count($P), 3), 0.0)];
        }
        $face = $distanceSq = [];
        $tree->closest($P, $face, $distanceSq);
        $away = array_map(sqrt(...), $distanceSq);
        $centres = [];
        for ($h = 0, $step = 3 * self::every(intdiv(count($F), 3)); $h < count($F); $h += $step) {
            [$a, $b, $c] = [3 * $F[$h], 3 * $F[$h + 1], 3 * $F[$h + 2]];
            array_push($centres, ($P[$a] + $P[$b] + $P[$c]) / 3.0, ($P[$a + 1] + $P[$b + 1] + $P[$c + 1]) / 3.0, ($P[$a + 2] + $P[$b + 2] + $P[$c + 2]) / 3.0);
        }
        $tree->closest($centres, $face, $distanceSq);
        $found = array_map(sqrt(...), $distanceSq);
        $some = $standing = [];
        for ($v = 0, $n = $whole->vertexCount(), $every = self::every($n); $v < $n; $v += $every) {
            array_push($some, $whole->positions[3 * $v], $whole->positions[3 * $v + 1], $whole->positions[3 * $v + 2]);
            $standing[] = $level['of'][$v];
        }
        TriangleBvh::of($P, $F)->closest($some, $face, $distanceSq);
        foreach ($standing as $k => $v) {
            $found[] = $d = sqrt($distanceSq[$k]);
            $away[$v] = max($away[$v], $d);
        }

        return [$found, $away];
    }

    private static function every(int $many): int
    {
        return max(1, (int) ceil($many / self::SAMPLES));
    }

    /** As an artefact that goes with the body: see above for what it holds. */
    public function artefact(): Artefact
    {
        $toOwn = 1.0 / $this->body->scale;
        $name = "Levels of {$this->body->name}";

        return new Artefact($name, $name, self::KIND, [
            'middle' => array_map(fn (float $c) => $toOwn * $c, $this->mesh->middle),
            'kept' => base64_encode(Packed::ints($this->mesh->kept)), 'gone' => base64_encode(Packed::ints($this->mesh->gone)),
            'places' => base64_encode(Packed::singles($toOwn === 1.0 ? $this->mesh->places : array_map(fn (float $c) => $toOwn * $c, $this->mesh->places))),
            'left' => base64_encode(Packed::ints($this->mesh->left)),
            'stops' => array_map(fn (array $stop) => array_diff_key($stop, ['shades' => 0]), $this->stops), 'shades' => base64_encode(implode('', array_column($this->stops, 'shades'))),
        ], Placement::of(1.0, RigidTransform::identity()), $this->body->id);
    }
}
