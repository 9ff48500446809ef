<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\CutAndRefill;

/**
 * Stretches of one body's rims, and curves over the open between their ends that leave the surface along its slope.
 *
 * @phpstan-type Place array{float, float, float}
 */
final readonly class RimSide
{
    /** @param  array<int, int>  $twin */
    private function __construct(public Body $body, public TriangleMesh $mesh, private array $twin, private BoundaryLoops $rims)
    {
    }

    /**
     * Of the body whose rim is nearest to a pick.
     *
     * @param  Place  $at
     *
     * @throws UnsuitableInput when there is no rim
     */
    public static function nearest(Workpiece $workpiece, array $at): self
    {
        $best = null;
        $least = INF;
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placed();
            assert($mesh instanceof TriangleMesh);
            // Where rims touch in a vertex, each gets one of its own, as in filling.
            $mesh = CutAndRefill::apart($mesh);
            $twin = Topology::twins($mesh->faces);
            $rims = BoundaryLoops::along(Topology::rims($mesh->faces, $twin), $mesh->positions);
            $near = $rims->nearest($at);
            if ($near !== null && $near['distance'] < $least) {
                $least = $near['distance'];
                $best = new self($body, $mesh, $twin, $rims);
            }
        }

        return $best ?? throw UnsuitableInput::because($workpiece->meshes() === [] ? 'There is no mesh to work on: fuse the passes first, or bring in a mesh.' : 'No rim is open any more; there is nothing to fill.');
    }

    /**
     * The vertices of the stretch between two picks, in the direction of the rim: the one with a third pick on it, without that the shorter.
     *
     * @param  Place  $from
     * @param  Place  $to
     * @param  Place|null  $side
     * @return list<int>
     *
     * @throws UnsuitableInput
     */
    public function stretch(array $from, array $to, ?array $side = null): array
    {
        $near = $this->rims->nearest($from);
        assert($near !== null);
        $rim = $this->rims->rims[$near['rim']];
        [$a, $b] = [$near['corner'], $this->corner($rim, $to)];
        $other = $this->rims->nearest($to);
        if ($other === null || $other['rim'] !== $near['rim']) {
            throw UnsuitableInput::because('The two ends lie on different rims; pick both on one.');
        }
        if ($a === $b) {
            throw UnsuitableInput::because('Both ends lie on one corner of the rim; pick them farther apart.');
        }
        [$one, $two] = [self::along($rim, $a, $b), self::along($rim, $b, $a)];
        if ($side === null) {
            return $this->lengthOf($one) <= $this->lengthOf($two) ? $one : $two;
        }
        $c = $this->corner($rim, $side);
        if ($c === $a || $c === $b) {
            throw UnsuitableInput::because('The third place is at one of the ends; pick it in the middle of the side to close.');
        }

        return ($c - $a + count($rim)) % count($rim) < ($b - $a + count($rim)) % count($rim) ? $one : $two;
    }

    /**
     * Places over the open between two vertices of rims, as far apart as the corners of the rims, without the ends.
     *
     * Source    cubic Hermite; at both ends it runs on along the surface, square to the rim, as far as an arc that leaves at that angle would.
     *
     * @return list<float> flat xyz
     */
    public function across(int $from, int $to): array
    {
        [$p, $q] = [$this->at($from), $this->at($to)];
        $length = Vector3::length(Vector3::minus($q, $p));
        [$m, $n] = [$this->outward($from), $this->outward($to)];
        [$out, $in] = [self::reach($m, Vector3::minus($q, $p)), self::reach($n, Vector3::minus($p, $q))];
        $steps = max(1, (int) round($length / max(1e-12, $this->spacing($from, $to))));
        $places = [];
        for ($k = 1; $k < $steps; $k++) {
            $t = $k / $steps;
            [$h0, $h1, $h2, $h3] = [(1.0 + 2.0 * $t) * (1.0 - $t) ** 2, $t * (1.0 - $t) ** 2, $t * $t * (3.0 - 2.0 * $t), $t * $t * (1.0 - $t)];
            for ($c = 0; $c < 3; $c++) {
                // Towards the other end the curve comes in against that end's way out.
                $places[] = $h0 * $p[$c] + $h1 * $out * $m[$c] + $h2 * $q[$c] + $h3 * $in * $n[$c];
            }
        }

        return $places;
    }

    /**
     * The length of the end's derivative: with it the curve is nearest to the arc that leaves along $way and ends a $chord away.
     *
     * @param  Place  $way  unit length
     * @param  Place  $chord
     */
    private static function reach(array $way, array $chord): float
    {
        $length = Vector3::length($chord);
        $cosine = $length > 0.0 ? Vector3::dot($way, $chord) / $length : 1.0;

        // 1 / cos^2 of half the angle; ways that lead back are not followed far.
        return $length * min(3.0, 2.0 / max(1e-9, 1.0 + $cosine));
    }

    /**
     * Square to the rim, along the surface, into the open: unit length.
     *
     * @return Place
     */
    private function outward(int $v): array
    {
        $sum = [0.0, 0.0, 0.0];
        foreach ($this->twin as $h => $g) {
            $o = $h - $h % 3;
            [$a, $b] = [$this->mesh->faces[$h], $this->mesh->faces[$o + ($h + 1) % 3]];
            if ($g >= 0 || ($a !== $v && $b !== $v)) {
                continue;
            }
            [$p, $q, $r] = [$this->at($a), $this->at($b), $this->at($this->mesh->faces[$o + ($h + 2) % 3])];
            $edge = Vector3::unit(Vector3::minus($q, $p));
            $out = Vector3::minus($p, $r);
            $along = Vector3::dot($out, $edge);
            $out = [$out[0] - $along * $edge[0], $out[1] - $along * $edge[1], $out[2] - $along * $edge[2]];
            $l = Vector3::length($out) ?: 1.0;
            $sum = [$sum[0] + $out[0] / $l, $sum[1] + $out[1] / $l, $sum[2] + $out[2] / $l];
        }
        $l = Vector3::length($sum) ?: 1.0;

        return [$sum[0] / $l, $sum[1] / $l, $sum[2] / $l];
    }

    /** The mean length of the rim edges at two vertices. */
    private function spacing(int $from, int $to): float
    {
        $lengths = [];
        foreach ($this->rims->rims as $rim) {
            $n = count($rim);
            foreach ([$from, $to] as $v) {
                $k = array_search($v, $rim, true);
                if (is_int($k)) {
                    array_push($lengths, Vector3::length(Vector3::minus($this->at($v), $this->at($rim[($k + 1) % $n]))), Vector3::length(Vector3::minus($this->at($v), $this->at($rim[($k + $n - 1) % $n]))));
                }
            }
        }

        return array_sum($lengths) / max(1, count($lengths));
    }

    /**
     * @param  list<int>  $rim
     * @param  Place  $at
     */
    private function corner(array $rim, array $at): int
    {
        $best = 0;
        $least = INF;
        foreach ($rim as $k => $v) {
            $d = Vector3::length(Vector3::minus($this->at($v), $at));
            if ($d < $least) {
                [$best, $least] = [$k, $d];
            }
        }

        return $best;
    }

    /**
     * @param  list<int>  $rim
     * @return list<int> from corner $a to corner $b, both with it
     */
    private static function along(array $rim, int $a, int $b): array
    {
        $n = count($rim);
        $way = [];
        for ($k = 0, $e = ($b - $a + $n) % $n; $k <= $e; $k++) {
            $way[] = $rim[($a + $k) % $n];
        }

        return $way;
    }

    /** @param  list<int>  $way */
    private function lengthOf(array $way): float
    {
        $length = 0.0;
        for ($k = 1, $n = count($way); $k < $n; $k++) {
            $length += Vector3::length(Vector3::minus($this->at($way[$k]), $this->at($way[$k - 1])));
        }

        return $length;
    }

    /** @return Place */
    private function at(int $v): array
    {
        $p = $this->mesh->positions;

        return [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
    }
}
