<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * How thick the wall of a body is: by a ray straight into it, or by the largest ball that touches the surface at a place and fits between its two sides.
 *
 * Source    ray: the first crossing along the normal inwards; ball: Ma, Bae & Choi 2012, "3D medial axis point approximation using nearest neighbors and the normal field" (shrinking ball); Peters 2018, "Geographical point cloud modelling with the 3D medial axis transform" (noise).
 * Departs   a wall has two sides that look apart: where the other side looks away from the first by less than 120 degrees (the way in meets an edge or a corner) there is none.
 * Error     of the two sides: what noise leaves in a place of either (SurfaceNoise), and where the passes that saw them stand to each other (ScanError). The thinnest of many places is that with the most noise of those
 *           that are about as thick. A surface made of passes does not follow what is only some cells thick: a wall t thick between faces with edges e is off by the order of e^3 / 2t^2 (measured on an oil cup with a wall of 2.5 mm and e of 1.15 mm, 0.25 mm).
 * Cost      about 10 us a place by ray, 60 us by ball.
 */
final class WallGauge
{
    /** Places all over a body at which its wall is looked at. */
    private const PLACES = 20_000;

    /** A place counts as thin as the middle one of those that look the same way within this many times the mean way between places (some twelve of them): one sliver at an edge is no wall. */
    private const AROUND = 2.0;

    /** A place counts only if its own thickness and the middle one around it differ by no more than this: the smaller as a share of the larger. */
    private const AS_THICK = 0.9;

    /** Fewer places than this around a place (itself counted) tell nothing of it: on a flat there are some twelve. */
    private const FEWEST = 6;

    /** Cosine of the angle up to which two places look the same way. */
    private const SAME_WAY = 0.7;

    /** Thinnest places that are listed, and how far from each other they lie, as a share of the size of the body. */
    private const LISTED = 5;

    private const APART = 0.05;

    /** Cosine between the normals of the two sides of a wall, at most. */
    private const OPPOSITE = -0.5;

    /** Rounds in which a ball shrinks, at most; it has mostly done so after three. */
    private const ROUNDS = 12;

    /** A ball that keeps this share of the way of the ray has the same other side. */
    private const HARDLY = 0.9;

    /** Cosine of the angle (60 degrees) at the middle of a ball within which surface counts as that which it touches: noise and flat facets there would shrink it to nothing (Peters 2018). */
    private const BESIDE = 0.5;

    /** A ball has shrunk enough when its radius changes by less than this share. */
    private const SETTLED = 1e-6;

    /** The noise at a place is at most this many times that of the whole: beside an edge no quadric follows the surface, and the shape would count as noise. */
    private const ROUGHEST = 2.0;

    private readonly TriangleBvh $tree;

    /** @var array<int, float> flat normals of faces, of the length of twice the area */
    private readonly array $normals;

    private readonly float $diagonal;

    private readonly SurfaceNoise $noise;

    /** What a vertex of the surface is off for noise, mm. */
    private readonly float $typical;

    /** @param  bool  $byBall  the largest ball between the two sides, in place of the ray straight in */
    public function __construct(private readonly TriangleMesh $mesh, private readonly bool $byBall, private readonly ScanError $scan)
    {
        $this->noise = new SurfaceNoise($mesh);
        $this->typical = $this->noise->typical() ?? 0.0;
        $this->tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $this->normals = Measure::crosses($mesh->positions, $mesh->faces);
        $this->diagonal = BoundingBox::of($mesh->positions)->diagonal();
    }

    /**
     * At a place on the surface.
     *
     * @param  array{float, float, float}  $place
     *
     * @throws UnsuitableInput where there is no wall
     */
    public function at(array $place): Measurement
    {
        ['thickness' => [$thickness], 'from' => $from, 'to' => [$to], 'faces' => [$faces]] = $this->looked($place);
        if ($thickness === null || $to === null) {
            throw UnsuitableInput::because('There is no wall: the surface has no other side there that looks away from it.');
        }

        return $this->measured($thickness, [$from[0], $from[1], $from[2]], $to, $faces, 1);
    }

    /**
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     * @param  array{int, int}  $faces  that the two sides lie in
     * @param  int  $among  how many places about as thick it is the thinnest of
     */
    private function measured(float $thickness, array $from, array $to, array $faces, int $among): Measurement
    {
        $normals = [$this->normal($faces[0]), $this->normal($faces[1])];
        $sides = [$this->noise->at($from, $normals[0]), $this->noise->at($to, $normals[1])];
        if (in_array(null, $sides, true)) {
            return new Measurement($thickness, 'mm', null, [], $from, [$from, $to]);
        }
        $noise = hypot(...array_map(fn (float $side) => min($side, self::ROUGHEST * $this->typical), $sides));
        $thin = $this->mesh->support === [] ? 0.0 : $this->scan->edge ** 3 / (2.0 * max($thickness, 1e-12) ** 2);

        return new Measurement($thickness, 'mm', sqrt(($noise * (1.0 + 0.5 * SurfaceNoise::largest($among))) ** 2 + $this->scan->ofPlaces($from, $normals[0], $to, $normals[1]) + $thin ** 2), [], $from, [$from, $to]);
    }

    /**
     * The thinnest places all over the body, far from each other.
     *
     * @return non-empty-list<Measurement> the thinnest first
     *
     * @throws UnsuitableInput when there is no wall anywhere
     */
    public function thinnest(): array
    {
        ['points' => $points, 'normals' => $normals] = Sampling::evenly($this->mesh->positions, $this->mesh->faces, self::PLACES);
        ['thickness' => $thickness, 'from' => $from, 'to' => $to, 'faces' => $faces] = $this->looked($points);
        $spacing = sqrt(array_sum(Measure::areas($this->mesh->positions, $this->mesh->faces)) / max(1, count($thickness)));
        $middle = self::middles($thickness, $points, $normals, self::AROUND * max($spacing, 1e-9 * $this->diagonal));
        asort($middle);
        $found = [];
        foreach (array_keys($middle) as $k) {
            $value = (float) $thickness[$k];
            $place = [$from[3 * $k], $from[3 * $k + 1], $from[3 * $k + 2]];
            foreach ($found as $other) {
                if (Vector3::length(Vector3::minus($place, $other->place ?? $place)) < self::APART * $this->diagonal) {
                    continue 2;
                }
            }
            $among = count(array_filter($middle, fn (float $one) => $one >= $value && $one <= $value / self::AS_THICK));
            $found[] = $this->measured($value, $place, $to[$k] ?? $place, $faces[$k], $among);
            if (count($found) === self::LISTED) {
                break;
            }
        }

        return $found !== [] ? $found : throw UnsuitableInput::because('There is no wall: nowhere has the surface another side that looks away from it.');
    }

    /**
     * The median thickness around each place that is as thick itself. Places that differ from what is around them (a sliver at an edge, a place beside a pocket) are left out.
     *
     * @param  list<float|null>  $thickness
     * @param  array<int, float>  $points
     * @param  array<int, float>  $normals
     * @param  float  $reach  mm
     * @return array<int, float> by place
     */
    private static function middles(array $thickness, array $points, array $normals, float $reach): array
    {
        $lattice = LatticeKeys::of($points, $reach);
        $cells = [];
        foreach (array_keys($thickness) as $k) {
            $cells[$lattice->at($points[3 * $k], $points[3 * $k + 1], $points[3 * $k + 2])][] = $k;
        }
        $middles = [];
        foreach ($thickness as $k => $own) {
            if ($own === null) {
                continue;
            }
            [$x, $y, $z] = [$points[3 * $k], $points[3 * $k + 1], $points[3 * $k + 2]];
            $cell = $lattice->at($x, $y, $z);
            $around = [];
            for ($i = -1; $i <= 1; $i++) {
                for ($j = -1; $j <= 1; $j++) {
                    for ($l = -1; $l <= 1; $l++) {
                        foreach ($cells[$cell + $i * $lattice->layer + $j * $lattice->row + $l] ?? [] as $n) {
                            $isNear = ($points[3 * $n] - $x) ** 2 + ($points[3 * $n + 1] - $y) ** 2 + ($points[3 * $n + 2] - $z) ** 2 <= $reach * $reach;
                            if ($isNear && $normals[3 * $k] * $normals[3 * $n] + $normals[3 * $k + 1] * $normals[3 * $n + 1] + $normals[3 * $k + 2] * $normals[3 * $n + 2] >= self::SAME_WAY) {
                                $around[] = $thickness[$n] ?? INF;
                            }
                        }
                    }
                }
            }
            sort($around);
            $middle = $around[intdiv(count($around), 2)];
            // A place alone among others that are thicker is not where it is thin.
            if (count($around) >= self::FEWEST && is_finite($middle) && $own >= self::AS_THICK * $middle && $middle >= self::AS_THICK * $own) {
                $middles[$k] = $middle;
            }
        }

        return $middles;
    }

    /** @return list<float|null> at each vertex, mm; null where there is no wall */
    public function map(): array
    {
        return $this->looked($this->mesh->positions)['thickness'];
    }

    /**
     * @param  array<int, float>  $points  flat xyz, on the surface or near it
     * @return array{thickness: list<float|null>, from: list<float>, to: list<array{float, float, float}|null>, faces: list<array{int, int}>} from: the places on the surface, flat xyz; to: where the wall ends; faces: in which either lies
     */
    private function looked(array $points): array
    {
        $face = $distanceSq = $way = $hit = [];
        $this->tree->closest($points, $face, $distanceSq);
        $from = TriangleFeet::of($points, $face, $this->mesh->positions, $this->mesh->faces);
        $rays = [];
        foreach ($face as $k => $t) {
            array_push($rays, $from[3 * $k], $from[3 * $k + 1], $from[3 * $k + 2], ...Vector3::scaled($this->normal($t), -1.0));
        }
        $this->tree->firstAlong($rays, $hit, $way, 1e-6 * $this->diagonal);
        $balls = $this->byBall ? $this->shrunk($rays, $way, $hit) : ['thickness' => $way, 'face' => $hit];
        $thickness = $to = $faces = [];
        foreach ($face as $k => $t) {
            $size = $balls['thickness'][$k];
            $other = $balls['face'][$k];
            $isWall = is_finite($size) && $other >= 0 && Vector3::dot($this->normal($t), $this->normal($other)) <= self::OPPOSITE;
            $thickness[] = $isWall ? $size : null;
            $to[] = $isWall ? [$rays[6 * $k] + $size * $rays[6 * $k + 3], $rays[6 * $k + 1] + $size * $rays[6 * $k + 4], $rays[6 * $k + 2] + $size * $rays[6 * $k + 5]] : null;
            $faces[] = [$t, $isWall ? $other : $t];
        }

        return ['thickness' => $thickness, 'from' => $from, 'to' => $to, 'faces' => $faces];
    }

    /**
     * The balls that touch the surface where rays begin, shrunk from the whole way of the ray until nothing is in them.
     *
     * @param  list<float>  $rays
     * @param  array<int, float>  $way
     * @param  array<int, int>  $hit
     * @return array{thickness: array<int, float>, face: array<int, int>} diameter, and the face on the other side: where it hardly shrank, the one that the ray meets (within a round part it touches all around)
     */
    private function shrunk(array $rays, array $way, array $hit): array
    {
        $radius = array_map(fn (float $length) => 0.5 * $length, $way);
        $touched = $hit;
        $live = array_keys(array_filter($radius, is_finite(...)));
        for ($round = 0; $round < self::ROUNDS && $live !== []; $round++) {
            $centres = $face = $distanceSq = [];
            foreach ($live as $k) {
                for ($c = 0; $c < 3; $c++) {
                    $centres[] = $rays[6 * $k + $c] + $radius[$k] * $rays[6 * $k + 3 + $c];
                }
            }
            $this->tree->closest($centres, $face, $distanceSq);
            $feet = TriangleFeet::of($centres, $face, $this->mesh->positions, $this->mesh->faces);
            $next = [];
            foreach ($live as $n => $k) {
                $to = [$feet[3 * $n] - $rays[6 * $k], $feet[3 * $n + 1] - $rays[6 * $k + 1], $feet[3 * $n + 2] - $rays[6 * $k + 2]];
                $inwards = $to[0] * $rays[6 * $k + 3] + $to[1] * $rays[6 * $k + 4] + $to[2] * $rays[6 * $k + 5];
                // Seen from the middle of the ball: what lies beside the place where it touches is the same side of the wall.
                $aside = ($radius[$k] - $inwards) / max(1e-300, sqrt($distanceSq[$n]));
                // The ball through both places that is tangent to the surface at the first.
                $smaller = $inwards > 0.0 && $aside < self::BESIDE ? Vector3::dot($to, $to) / (2.0 * $inwards) : INF;
                if ($smaller < (1.0 - self::SETTLED) * $radius[$k]) {
                    $radius[$k] = $smaller;
                    $touched[$k] = $smaller < self::HARDLY * 0.5 * $way[$k] ? $face[$n] : $hit[$k];
                    $next[] = $k;
                }
            }
            $live = $next;
        }

        return ['thickness' => array_map(fn (float $r) => 2.0 * $r, $radius), 'face' => $touched];
    }

    /** @return array{float, float, float} of length 1 */
    private function normal(int $face): array
    {
        return Vector3::unit([$this->normals[3 * $face], $this->normals[3 * $face + 1], $this->normals[3 * $face + 2]]);
    }
}
