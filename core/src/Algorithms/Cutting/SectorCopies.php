<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;

/**
 * A mesh made of one sector of another, copied around an axis. Where the given one is open, the result is.
 *
 * Method    the sector is cut out a little short on both sides; its copies are joined by strips across the gaps (Lofting), so that ends that differ pass into each other.
 * Error     the sector's own vertices stay where they are, to the bit. A strip is straight across: on a radius r it lies within w^2 / 8r of the arc, w the gap there.
 * Cost      that of two cuts, and a look for crossings in one strip.
 *
 * @internal
 */
final class SectorCopies
{
    /** Of the gap: tried one after the other where a cut touches an edge or a corner so that its rim meets itself. */
    private const ASIDE = [1.0, 0.987, 1.013, 0.95, 1.05];

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  list<int>  $faces  flat
     * @param  list<int>  $source  of each face: the face of the given mesh that it is a part of, or -1 where it is new
     * @param  list<bool>  $isCopied  of each vertex, whether it is a copy
     * @param  list<array{int, int, float}>  $between  for the sector's vertices beyond those of the given mesh: the edge that each lies on, and how far
     * @param  list<int>  $vertexOf  for each vertex the one of the sector that it is, or is a copy of
     * @param  string|null  $trouble  why it cannot be joined
     */
    private function __construct(
        public readonly array $positions,
        public readonly array $faces,
        public readonly array $source,
        public readonly array $isCopied,
        public readonly array $between,
        public readonly array $vertexOf,
        public readonly ?string $trouble,
    ) {
    }

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     * @param  array{float, float, float}  $point  of the axis
     * @param  array{float, float, float}  $axis  of length 1
     * @param  array{float, float, float}  $across  of length 1, square to the axis: where angles begin
     * @param  float  $from  radians
     * @param  int  $copies  around, 2 at least
     * @param  float  $gap  radians
     */
    public static function of(array $positions, array $faces, array $point, array $axis, array $across, float $from, int $copies, float $gap): self
    {
        $made = null;
        foreach (self::ASIDE as $share) {
            $made = self::joined($positions, $faces, $point, $axis, $across, $from, $copies, $share * $gap);
            if ($made->trouble === null) {
                break;
            }
        }

        return $made;
    }

    /**
     * @param  list<float>  $positions
     * @param  array<int, int>  $faces
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $axis
     * @param  array{float, float, float}  $across
     */
    private static function joined(array $positions, array $faces, array $point, array $axis, array $across, float $from, int $copies, float $gap): self
    {
        $given = intdiv(count($positions), 3);
        $beside = Vector3::cross($axis, $across);
        // Which way the angle grows at an angle.
        $onward = fn (float $angle): array => Vector3::minus(Vector3::scaled($beside, cos($angle)), Vector3::scaled($across, sin($angle)));
        $ends = [$onward($from + 0.5 * $gap), $onward($from + 2.0 * M_PI / $copies - 0.5 * $gap)];
        $first = PlaneCut::of($positions, $faces, $point, $ends[0]);
        $second = PlaneCut::of($first->positions, $first->faces[1], $point, $ends[1]);
        $p = $second->positions;
        $f = $second->faces[0];
        if ($f === []) {
            return self::failed('There is nothing in that sector.');
        }
        $source = array_map(fn (int $t) => $first->source[1][$t], $second->source[0]);
        // A cut moves no vertex, and one nearer to a plane than this counts as lying in it.
        $near = 2.0 * PlaneCut::SNAP * BoundingBox::of($positions)->diagonal();
        $rims = self::rims($p, $f, $point, $ends, $near);
        if (is_string($rims)) {
            return self::failed($rims);
        }
        $profile = function (int $v) use ($p, $point, $axis): array {
            $at = Vector3::minus([$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]], $point);
            $along = Vector3::dot($at, $axis);

            return [Vector3::length(Vector3::minus($at, Vector3::scaled($axis, $along))), $along, 0.0];
        };
        $pairs = RimLines::pairs($rims[0], $rims[1], $profile);
        if (is_string($pairs)) {
            return self::failed("Where the sector begins and where it ends the body is not the same: $pairs");
        }
        $strip = [];
        foreach ($pairs as [$start, $end, $isClosed]) {
            $line = [...array_map(fn (int $v) => [$v, 1], $start), ...array_map(fn (int $v) => [$v, 0], $end)];
            foreach (Lofting::between(array_map($profile, $start), array_map($profile, $end), $isClosed) as $corners) {
                $strip[] = array_map(fn (int $k) => $line[$k], $corners);
            }
        }

        return self::around($p, $f, $source, $strip, $first, $second, $point, $axis, $copies, $near, $given, min(Topology::twins($faces)) < 0);
    }

    private static function failed(string $why): self
    {
        return new self([], [], [], [], [], [], $why);
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $f
     * @param  array{float, float, float}  $point
     * @param  array{array{float, float, float}, array{float, float, float}}  $ends
     * @return array{list<array{list<int>, bool}>, list<array{list<int>, bool}>}|string at the beginning and at the end of the sector: lines of vertices, and whether they are closed; or what is wrong
     */
    private static function rims(array $p, array $f, array $point, array $ends, float $near): array|string
    {
        $isIn = fn (int $v, int $end): bool => abs(Vector3::dot(Vector3::minus([$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]], $point), $ends[$end])) <= $near;
        $next = [[], []];
        foreach (Topology::twins($f) as $h => $twin) {
            if ($twin >= 0) {
                continue;
            }
            [$a, $b] = [$f[$h], $f[$h % 3 === 2 ? $h - 2 : $h + 1]];
            $end = $isIn($a, 0) && $isIn($b, 0) ? 0 : ($isIn($a, 1) && $isIn($b, 1) ? 1 : null);
            if ($end === null) {
                // A rim that was there before.
                continue;
            }
            if (isset($next[$end][$a])) {
                return 'The rim of the cut meets itself.';
            }
            $next[$end][$a] = $b;
        }

        return [RimLines::of($next[0]), RimLines::of($next[1])];
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $f
     * @param  list<int>  $source
     * @param  list<list<array{int, int}>>  $strip  corners: a vertex of the sector, and of how many sectors on
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $axis
     */
    private static function around(array $p, array $f, array $source, array $strip, PlaneCut $first, PlaneCut $second, array $point, array $axis, int $copies, float $near, int $given, bool $mayBeOpen): self
    {
        $numbers = $vertexOf = $isCopied = $positions = [];
        $used = array_values(array_unique($f));
        sort($used);
        for ($k = 0; $k < $copies; $k++) {
            $turn = self::turn($point, $axis, 2.0 * M_PI * $k / $copies);
            foreach ($used as $v) {
                $at = [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
                if ($k > 0) {
                    $from = Vector3::minus($at, $point);
                    if (Vector3::length(Vector3::minus($from, Vector3::scaled($axis, Vector3::dot($from, $axis)))) <= 2.0 * $near) {
                        // On the axis all copies share it.
                        $numbers[$k][$v] = $numbers[0][$v];

                        continue;
                    }
                    $at = $turn->point($at);
                }
                $numbers[$k][$v] = count($vertexOf);
                $vertexOf[] = $v;
                $isCopied[] = $k > 0;
                array_push($positions, ...$at);
            }
        }
        $faces = $sources = $asked = [];
        for ($k = 0; $k < $copies; $k++) {
            foreach ($f as $v) {
                $faces[] = $numbers[$k][$v];
            }
            array_push($sources, ...($k === 0 ? $source : array_fill(0, count($source), -1)));
        }
        for ($k = 0; $k < $copies; $k++) {
            foreach ($strip as $corners) {
                [$a, $b, $c] = array_map(fn (array $corner) => $numbers[($k + $corner[1]) % $copies][$corner[0]], $corners);
                if ($a !== $b && $b !== $c && $c !== $a) {
                    $k > 0 || $asked[] = count($sources);
                    array_push($faces, $a, $b, $c);
                    $sources[] = -1;
                }
            }
        }
        $isOpen = min(Topology::twins($faces)) < 0;
        $trouble = $isOpen && ! $mayBeOpen ? 'The sectors do not close where they meet.' : RimLines::crossing($positions, $faces, $asked);
        $between = [...$first->between, ...$second->between];

        return new self($positions, $faces, $sources, $isCopied, array_slice($between, 0, intdiv(count($p), 3) - $given), $vertexOf, $trouble);
    }

    /**
     * A turn about an axis that need not go through the origin.
     *
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $axis
     */
    public static function turn(array $point, array $axis, float $angle): RigidTransform
    {
        return RigidTransform::shift(-$point[0], -$point[1], -$point[2])->then(RigidTransform::turn($axis, $angle))->then(RigidTransform::shift(...$point));
    }
}
