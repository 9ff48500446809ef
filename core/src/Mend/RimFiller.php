<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Mend\Kernel\Fair;
use Emberstone\Core\Mend\Kernel\Refine;
use Emberstone\Core\Mend\Kernel\RimTriangulation;
use Emberstone\Core\Mend\Kernel\Untangle;
use Emberstone\Core\Mesh\Kernel\Topology;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Progress;

/**
 * Spans open rims with new surface, as dense as the surface around and faired into it, marked as filled.
 *
 * Source    Barequet & Sharir 1995 (least area), Liepa 2003 (refinement), Botsch & Kobbelt 2004 (fairing); see Kernel/.
 */
final class RimFiller
{
    /**
     * @param  callable(list<list<int>> $rims, array<int, float> $positions): array<int, true>  $wanted  the rims to close, by number
     */
    public function fill(TriangleMesh $mesh, string $shape, callable $wanted, Progress $progress): Filling
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
        $around = $this->surroundings($f, $rims, count($p));
        $progress->advance('rims', 0.1);
        $chosen = $wanted($rims, $p);
        foreach ($rims as $k => $rim) {
            if (! isset($chosen[$k])) {
                $left++;

                continue;
            }
            $first = intdiv(count($p), 3);
            $patch = $this->patch($rim, $p, $around, $shape, fn () => $progress->advance('filling', 0.1 + 0.8 * $k / count($rims)));
            self::append($patch, TriangleMesh::FILLED, intdiv(count($p), 3) - $first, $f, $origin, $support);
            // The next rim may touch this one.
            $this->remember($around, $patch);
            $filled++;
            $progress->advance('filling', 0.1 + 0.8 * ($k + 1) / count($rims));
        }

        // Fairing over a bent rim can push the new surface through itself or the old one.
        $crossings = $filled === 0 ? 0 : Untangle::run($p, $f, $measured, range($mesh->faceCount(), intdiv(count($f), 3) - 1), fn (float $done) => $progress->advance('filling', 0.9 + 0.1 * $done))['left'];
        $progress->advance('filling', 1.0);

        return new Filling(TriangleMesh::fromFlat($p, $f, $support, $origin), $filled, $left, $crossings);
    }

    /**
     * Covers one ring that runs along rims and, between them, over places in the open.
     *
     * @param  list<int>  $ring  vertices of the mesh, and from its vertex count on the places, in the direction of the open half-edges
     * @param  list<float>  $places  flat xyz
     * @param  int  $mark  origin of the new faces
     */
    public function cover(TriangleMesh $mesh, array $ring, array $places, string $shape, int $mark, Progress $progress): Filling
    {
        $p = [...$mesh->positions, ...$places];
        $f = $mesh->faces;
        $support = [...$mesh->support === [] ? array_fill(0, $mesh->vertexCount(), 1) : $mesh->support, ...array_fill(0, intdiv(count($places), 3), 0)];
        $origin = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : $mesh->origin;
        $around = $this->surroundings($f, [$ring], count($p));
        $progress->advance('rims', 0.2);
        $measured = intdiv(count($p), 3);
        $patch = $this->patch($ring, $p, $around, $shape, fn () => $progress->advance('filling', 0.3));
        self::append($patch, $mark, intdiv(count($p), 3) - $measured, $f, $origin, $support);
        $progress->advance('filling', 0.7);
        $crossings = Untangle::run($p, $f, $measured, range($mesh->faceCount(), intdiv(count($f), 3) - 1), fn (float $done) => $progress->advance('filling', 0.7 + 0.3 * $done))['left'];
        $progress->advance('filling', 1.0);

        return new Filling(TriangleMesh::fromFlat($p, $f, $support, $origin), 1, 0, $crossings);
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
     * Neighbours of the vertices within three rings of a rim.
     *
     * @param  array<int, int>  $f
     * @param  list<list<int>>  $rims
     * @return array<int, array<int, true>>
     */
    private function surroundings(array $f, array $rims, int $coordinates): array
    {
        $near = array_fill(0, intdiv($coordinates, 3), 0);
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
        $around = [];
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            for ($k = 0; $k < 3; $k++) {
                $a = $f[$t + $k];
                $b = $f[$t + ($k + 1) % 3];
                if ($near[$a] > 0) {
                    $around[$a][$b] = true;
                }
                if ($near[$b] > 0) {
                    $around[$b][$a] = true;
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
    private function patch(array $rim, array &$p, array $around, string $shape, callable $breathe): array
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
        $first = intdiv(count($p), 3);
        $patch = RimTriangulation::span($rim, $p, $taken) ?? $this->fanFromMiddle($rim, $p, $scale);
        $breathe();
        if ($n > 4) {
            $patch = Refine::run($p, $patch, $scale, $taken);
        }
        $breathe();
        $free = range($first, intdiv(count($p), 3) - 1);
        if (intdiv(count($p), 3) > $first) {
            $this->remember($around, $patch);
            $order = match ($shape) {
                'flat' => 1, 'tangent' => 2, default => 3,
            };
            Fair::run($p, $this->rings($around, $free, $order), $free, $order, $breathe);
        }

        return $patch;
    }

    /**
     * Neighbour lists of the free vertices and of the rings around them that the fairing looks at.
     *
     * @param  array<int, array<int, true>>  $around
     * @param  list<int>  $free
     * @return array<int, list<int>>
     */
    private function rings(array $around, array $free, int $order): array
    {
        $rings = [];
        $front = $free;
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

    /** @param  array<int, float>  $p */
    private static function length(array $p, int $a, int $b): float
    {
        return sqrt(($p[3 * $a] - $p[3 * $b]) ** 2 + ($p[3 * $a + 1] - $p[3 * $b + 1]) ** 2 + ($p[3 * $a + 2] - $p[3 * $b + 2]) ** 2);
    }
}
