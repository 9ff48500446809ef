<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\Fair;
use Emberstone\Core\Algorithms\Remeshing\Needles;
use Emberstone\Core\Algorithms\Remeshing\Refine;
use Emberstone\Core\Algorithms\Remeshing\RimQuadric;
use Emberstone\Core\Algorithms\Remeshing\RimTriangulation;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Spans open rims with new surface, as dense as the surface around and faired into it, marked as filled.
 *
 * Source    Barequet & Sharir 1995 (spanning), Liepa 2003 (least bends, refinement), Botsch & Kobbelt 2004 (fairing); see Algorithms/Remeshing.
 */
final class RimFiller
{
    /** What is around a rim lies on a quadric when it is no farther off than this share of the rim's width. */
    private const ON_QUADRIC = 0.02;

    /** A quadric leads no vertex farther than this share of the rim's width from where the slope leads it. */
    private const FARTHEST = 0.5;

    /** @var array<int, array{float, float, float}> not of unit length, by vertex near a rim */
    private array $normals = [];

    /** @var array<int, array{float, float, float}> unit normals of the faces near rims, by half-edge (from << 32 | to) */
    private array $beside = [];

    /** Rims whose new surface came out plainer than asked for: a system of equations could not be solved. */
    private int $plainer = 0;

    /**
     * @param  callable(list<list<int>> $rims, array<int, float> $positions): array<int, true>  $wanted  the rims to close, by number
     */
    public function fill(TriangleMesh $mesh, PatchShape $shape, callable $wanted, Progress $progress): Filling
    {
        $filled = $left = 0;
        $p = $mesh->positions;
        $f = $mesh->faces;
        $support = $mesh->support === [] ? array_fill(0, $mesh->vertexCount(), 1) : $mesh->support;
        $origin = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : $mesh->origin;
        Topology::splitFans($p, $f, $support);
        $rims = Topology::rims($f, Topology::twins($f));
        if ($rims === []) {
            return new Filling($mesh, 0, 0, 0);
        }
        $measured = intdiv(count($p), 3);
        $around = $this->surroundings($p, $f, $rims);
        $progress->advance('rims', 0.1);
        $chosen = $wanted($rims, $p);
        $left = count($rims) - count($chosen);
        $joined = HoleIslands::joined($rims, $chosen, $p, $f);
        $wanting = array_diff_key($chosen, array_flip(array_merge(...array_column($joined, 'islands'))));
        while ($wanting !== []) {
            $k = array_key_first($wanting);
            unset($wanting[$k]);
            $first = intdiv(count($p), 3);
            $before = $p;
            $patch = $this->patch($joined[$k]['ring'] ?? $rims[$k], $p, $around, $shape, fn () => $progress->advance('filling', 0.1 + 0.8 * $filled / count($chosen)));
            if (isset($joined[$k]) && ! self::isSound($patch)) {
                // The bridge led into a dead end: each rim for itself.
                $p = $before;
                $wanting = [$k => true] + array_fill_keys($joined[$k]['islands'], true) + $wanting;
                unset($joined[$k]);

                continue;
            }
            self::append($patch, TriangleMesh::FILLED, intdiv(count($p), 3) - $first, $f, $origin, $support);
            // The next rim may touch this one.
            $this->remember($around, $patch);
            $filled += 1 + count($joined[$k]['islands'] ?? []);
            $progress->advance('filling', 0.1 + 0.8 * $filled / count($chosen));
        }

        // Fairing over a bent rim can push the new surface through itself or the old one, and what takes it apart can leave needles.
        $crossings = 0;
        $needles = [];
        if ($filled > 0) {
            $p = Needles::laidDown($p, array_slice($f, 3 * $mesh->faceCount()), fn (array $p): array => self::needles($p, $f, $mesh->faceCount(), $measured));
            $crossings = Untangle::run($p, $f, $measured, range($mesh->faceCount(), intdiv(count($f), 3) - 1), fn (float $done) => $progress->advance('filling', 0.9 + 0.1 * $done))['left'];
            $needles = self::needles($p, $f, $mesh->faceCount(), $measured);
        }
        $progress->advance('filling', 1.0);

        return new Filling(TriangleMesh::fromFlat($p, $f, $support, $origin), $filled, $left, $crossings, count($needles), $this->plainer);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<int> new vertices that stand up like needles
     */
    private static function needles(array $p, array $f, int $oldFaces, int $oldVertices): array
    {
        return array_values(array_filter(Inspection::spikes($p, array_slice($f, 3 * $oldFaces), intdiv(count($p), 3)), fn (int $v) => $v >= $oldVertices));
    }

    /**
     * Is every edge passed once each way at most, and every face one of three corners?
     *
     * @param  list<int>  $patch
     */
    private static function isSound(array $patch): bool
    {
        $seen = [];
        foreach ($patch as $h => $v) {
            $w = $patch[$h % 3 === 2 ? $h - 2 : $h + 1];
            if ($v === $w || isset($seen[$v << 32 | $w])) {
                return false;
            }
            $seen[$v << 32 | $w] = true;
        }

        return true;
    }

    /**
     * Covers one ring that runs along rims and, between them, over places in the open.
     *
     * @param  list<int>  $ring  vertices of the mesh, and from its vertex count on the places, in the direction of the open half-edges
     * @param  list<float>  $places  flat xyz
     * @param  int  $mark  origin of the new faces
     */
    public function cover(TriangleMesh $mesh, array $ring, array $places, PatchShape $shape, int $mark, Progress $progress): Filling
    {
        $p = [...$mesh->positions, ...$places];
        $f = $mesh->faces;
        $support = [...$mesh->support === [] ? array_fill(0, $mesh->vertexCount(), 1) : $mesh->support, ...array_fill(0, intdiv(count($places), 3), 0)];
        $origin = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : $mesh->origin;
        $around = $this->surroundings($p, $f, [$ring]);
        $progress->advance('rims', 0.2);
        $measured = intdiv(count($p), 3);
        $patch = $this->patch($ring, $p, $around, $shape, fn () => $progress->advance('filling', 0.3));
        self::append($patch, $mark, intdiv(count($p), 3) - $measured, $f, $origin, $support);
        $progress->advance('filling', 0.7);
        $crossings = Untangle::run($p, $f, $measured, range($mesh->faceCount(), intdiv(count($f), 3) - 1), fn (float $done) => $progress->advance('filling', 0.7 + 0.3 * $done))['left'];
        $progress->advance('filling', 1.0);

        return new Filling(TriangleMesh::fromFlat($p, $f, $support, $origin), 1, 0, $crossings, plainer: $this->plainer);
    }

    /**
     * @param  list<int>  $patch
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $origin  (changed)
     * @param  array<int, int>  $support  (changed)
     */
    private static function append(array $patch, int $mark, int $vertices, array &$f, array &$origin, array &$support): void
    {
        foreach ($patch as $v) {
            $f[] = $v;
        }
        for ($i = intdiv(count($patch), 3); $i > 0; $i--) {
            $origin[] = $mark;
        }
        for ($i = $vertices; $i > 0; $i--) {
            $support[] = 0;
        }
    }

    /**
     * Neighbours, and normals, of the vertices within three rings of a rim.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<list<int>>  $rims
     * @return array<int, array<int, true>>
     */
    private function surroundings(array $p, array $f, array $rims): array
    {
        $near = array_fill(0, intdiv(count($p), 3), 0);
        foreach ($rims as $rim) {
            foreach ($rim as $v) {
                $near[$v] = 4;
            }
        }
        for ($ring = 3; $ring > 0; $ring--) {
            for ($t = 0, $n = count($f); $t < $n; $t += 3) {
                $a = $f[$t];
                $b = $f[$t + 1];
                $c = $f[$t + 2];
                if ($near[$a] > $ring || $near[$b] > $ring || $near[$c] > $ring) {
                    if ($near[$a] === 0) {
                        $near[$a] = $ring;
                    }
                    if ($near[$b] === 0) {
                        $near[$b] = $ring;
                    }
                    if ($near[$c] === 0) {
                        $near[$c] = $ring;
                    }
                }
            }
        }
        $around = $this->normals = $this->beside = [];
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            [$a, $b, $c] = [$f[$t], $f[$t + 1], $f[$t + 2]];
            if ($near[$a] + $near[$b] + $near[$c] === 0) {
                continue;
            }
            $cross = Vector3::cross(Vector3::minus(self::at($p, $b), self::at($p, $a)), Vector3::minus(self::at($p, $c), self::at($p, $a)));
            $length = Vector3::length($cross);
            foreach ([[$a, $b, $c], [$b, $c, $a], [$c, $a, $b]] as [$v, $u, $w]) {
                if ($near[$v] === 4 && $near[$u] === 4 && $length > 0.0) {
                    $this->beside[$v << 32 | $u] = Vector3::scaled($cross, 1.0 / $length);
                }
                if ($near[$v] > 0) {
                    $around[$v][$u] = $around[$v][$w] = true;
                    $sum = $this->normals[$v] ?? [0.0, 0.0, 0.0];
                    $this->normals[$v] = [$sum[0] + $cross[0], $sum[1] + $cross[1], $sum[2] + $cross[2]];
                }
            }
        }

        return $around;
    }

    /**
     * @param  array<int, array<int, true>>  $around  (changed)
     * @param  list<int>  $patch
     */
    private function remember(array &$around, array $patch): void
    {
        for ($t = 0, $n = count($patch); $t < $n; $t += 3) {
            for ($k = 0; $k < 3; $k++) {
                $a = $patch[$t + $k];
                $b = $patch[$t + ($k + 1) % 3];
                $around[$a][$b] = $around[$b][$a] = true;
            }
        }
    }

    /**
     * New triangles over one rim; new vertices are appended to $p.
     *
     * @param  list<int>  $rim
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, array<int, true>>  $around
     * @return list<int>
     */
    private function patch(array $rim, array &$p, array $around, PatchShape $shape, callable $breathe): array
    {
        $taken = $scale = [];
        $n = count($rim);
        foreach ($rim as $k => $v) {
            foreach ($around[$v] ?? [] as $w => $_) {
                $taken[$v < $w ? $v << 32 | $w : $w << 32 | $v] = true;
            }
            $before = $rim[($k + $n - 1) % $n];
            $after = $rim[($k + 1) % $n];
            $scale[$v] = 0.5 * (self::length($p, $v, $before) + self::length($p, $v, $after));
        }
        // Ends of bridges to islands, which stand here twice: no edge leads from one to itself, nor a second one over the bridge.
        $twice = array_filter(array_count_values($rim), fn (int $times) => $times > 1);
        foreach ($twice === [] ? [] : $rim as $k => $v) {
            $after = $rim[($k + 1) % $n];
            if (isset($twice[$v])) {
                $taken[$v << 32 | $v] = true;
                $scale[$v] = min(self::length($p, $v, $after), self::length($p, $v, $rim[($k + $n - 1) % $n]));
                $taken[min($v, $after) << 32 | max($v, $after)] = true;
            }
        }
        $first = intdiv(count($p), 3);
        $patch = RimTriangulation::span($rim, $p, $taken, $this->beside) ?? $this->fanFromMiddle($rim, $p, $scale);
        $breathe();
        if ($n > 4) {
            $patch = Refine::run($p, $patch, $scale, $taken);
        }
        $breathe();
        $free = intdiv(count($p), 3) - $first;
        if ($free > 0) {
            $new = range($first, $first + $free - 1);
            $farther = $shape->towards > 0.0 ? $p : [];
            $isFair = $this->shaped($p, $rim, $around, $patch, $new, $shape->order, $breathe);
            if ($shape->towards > 0.0) {
                $isFair = $this->shaped($farther, $rim, $around, $patch, $new, $shape->order + 1, $breathe) && $isFair;
                for ($i = 3 * $first, $end = count($p); $i < $end; $i++) {
                    $p[$i] += $shape->towards * ($farther[$i] - $p[$i]);
                }
            }
            $this->plainer += $isFair ? 0 : 1;
        }

        return $patch;
    }

    /**
     * Moves the new vertices of a patch to where a shape has them.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  list<int>  $rim
     * @param  array<int, array<int, true>>  $around  of the mesh without the patch
     * @param  list<int>  $patch
     * @param  non-empty-list<int>  $new  its vertices that are not on the rim
     * @param  int  $order  see PatchShape
     * @return bool whether it came out as smooth as that
     */
    private function shaped(array &$p, array $rim, array $around, array $patch, array $new, int $order, callable $breathe): bool
    {
        $rings = $this->rings($around, $patch, $new[0], count($new), $order);
        // What will lie on a quadric needs to be near it only.
        $isFair = Fair::run($p, $rings, $new, min($order, 2), $breathe, times: $order === 3 ? 1 : Fair::AGAIN);
        // The slope alone leaves the middle of a dome too high or too low.
        if ($order === 3 && ! $this->bend($p, $rim, $around, $rings, $new, $breathe)) {
            $isFair = Fair::run($p, $rings, $new, 3, $breathe) && $isFair;
        }

        return $isFair;
    }

    /**
     * Puts a patch onto the quadric that what is around the rim lies on; what that lies off fades out inwards.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  list<int>  $rim
     * @param  array<int, array<int, true>>  $around  of the mesh without the patch
     * @param  array<int, list<int>>  $rings
     * @param  list<int>  $free
     * @return bool false, and nothing changed, where there is no such quadric
     */
    private function bend(array &$p, array $rim, array $around, array $rings, array $free, callable $breathe): bool
    {
        $band = array_fill_keys($rim, true);
        $front = $rim;
        for ($ring = 0; $ring < 3; $ring++) {
            $next = [];
            foreach ($front as $v) {
                foreach ($around[$v] ?? [] as $w => $_) {
                    if (! isset($band[$w])) {
                        $band[$w] = true;
                        $next[] = $w;
                    }
                }
            }
            $front = $next;
        }
        $points = $normals = $places = [];
        // Faces on one side of it only lean a vertex of the rim.
        $leaning = array_flip($rim);
        foreach ($band as $v => $_) {
            $length = Vector3::length($this->normals[$v] ?? [0.0, 0.0, 0.0]);
            if ($length > 0.0) {
                array_push($points, ...self::at($p, $v));
                array_push($normals, ...isset($leaning[$v]) ? [0.0, 0.0, 0.0] : Vector3::scaled($this->normals[$v], 1.0 / $length));
            }
        }
        foreach ($rim as $v) {
            array_push($places, ...self::at($p, $v));
        }
        $width = BoundingBox::of($places)->diagonal();
        $quadric = RimQuadric::of($points, $normals);
        if ($quadric === null || $quadric->rms > self::ON_QUADRIC * $width) {
            return false;
        }
        $on = $off = [];
        $isFree = array_flip($free);
        foreach ($rings as $v => $others) {
            foreach ([$v, ...$others] as $w) {
                if (isset($on[$w])) {
                    continue;
                }
                $on[$w] = $quadric->nearest(self::at($p, $w));
                $apart = Vector3::minus(self::at($p, $w), $on[$w]);
                if (! is_finite($on[$w][0]) || Vector3::length($apart) > self::FARTHEST * $width) {
                    return false;
                }
                [$off[3 * $w], $off[3 * $w + 1], $off[3 * $w + 2]] = isset($isFree[$w]) ? [0.0, 0.0, 0.0] : $apart;
            }
        }
        if (! Fair::run($off, $rings, $free, 2, $breathe, $p)) {
            return false;
        }
        foreach ($free as $v) {
            for ($c = 0; $c < 3; $c++) {
                $p[3 * $v + $c] = $on[$v][$c] + $off[3 * $v + $c];
            }
        }

        return true;
    }

    /**
     * Neighbour lists of the free vertices and of the rings around them that the fairing looks at.
     *
     * @param  array<int, array<int, true>>  $around  of the mesh without the patch
     * @param  list<int>  $patch
     * @return array<int, list<int>>
     */
    private function rings(array $around, array $patch, int $first, int $free, int $order): array
    {
        $own = [];
        $this->remember($own, $patch);
        foreach ($own as $v => $others) {
            $around[$v] = $others + ($around[$v] ?? []);
        }
        $rings = [];
        $front = range($first, $first + $free - 1);
        for ($depth = 0; $depth <= $order; $depth++) {
            $next = [];
            foreach ($front as $v) {
                if (isset($rings[$v])) {
                    continue;
                }
                $rings[$v] = array_keys($around[$v] ?? []);
                foreach ($rings[$v] as $w) {
                    $next[] = $w;
                }
            }
            $front = $next;
        }

        return $rings;
    }

    /**
     * A fan from one new vertex in the middle: uses no edge there already is.
     *
     * @param  list<int>  $rim
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, float|int>  $scale  (changed)
     * @return list<int>
     */
    private function fanFromMiddle(array $rim, array &$p, array &$scale): array
    {
        $n = count($rim);
        $middle = intdiv(count($p), 3);
        $x = $y = $z = 0.0;
        foreach ($rim as $v) {
            $x += $p[3 * $v] / $n;
            $y += $p[3 * $v + 1] / $n;
            $z += $p[3 * $v + 2] / $n;
        }
        array_push($p, $x, $y, $z);
        $scale[$middle] = array_sum($scale) / count($scale);
        $faces = [];
        foreach ($rim as $k => $v) {
            array_push($faces, $rim[($k + 1) % $n], $v, $middle);
        }

        return $faces;
    }

    /**
     * @param  array<int, float>  $p
     * @return array{float, float, float}
     */
    private static function at(array $p, int $v): array
    {
        return [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
    }

    /** @param  array<int, float>  $p */
    private static function length(array $p, int $a, int $b): float
    {
        return sqrt(($p[3 * $a] - $p[3 * $b]) ** 2 + ($p[3 * $a + 1] - $p[3 * $b + 1]) ** 2 + ($p[3 * $a + 2] - $p[3 * $b + 2]) ** 2);
    }
}
