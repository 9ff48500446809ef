<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/**
 * What a scan adds to the error of a measurement beyond that of the fits: where the passes stand to each other, and what the surface rounds off. Variances, mm2 or deg2.
 *
 * Poses     what the same passes saw moves along when one of them stands wrong, what other passes saw does not: of two places with shares a_p and b_p of their points from pass p, the errors of poses count for
 *           all but sum of min(a_p, b_p). A round thing that one pass saw alone keeps its diameter; seen by several, its sides are off against each other.
 * Surface   a fused surface is a mean over about a cell. Where a wall of radius r bends, faces with edges of length e leave it by e^2 / 8r; Fuse makes up for most of that (Splat::bends), but not at rims and where points
 *           are few, so all of it counts as one standard deviation. Bodies that were not made here of passes have none.
 * Scale     all lengths are wrong by the same share; areas by twice, volumes by three times that share. Known where a known length has set it (Orient\Scale).
 * Tested    core/bench/coverage.php: how often the truth lies within two standard deviations, over simulated scans.
 */
final class ScanError
{
    /** Points that are looked at, of all passes together, where passes are compared with each other cell by cell. */
    private const COMPARED = 2_000_000;

    /** Edge of such a cell, in edges of the body: what noise moves together. */
    private const CELL = 3.0;

    /** Points of a pass in a cell whose mean says something. */
    private const FEWEST = 4;

    private readonly PassShares $shares;

    /**
     * @param  list<Pass>  $passes
     * @param  float  $edge  mean edge of the coarsest body that was made of passes here, mm; 0 where there is none
     * @param  float|null  $scaleError  how well the scale is known, see Result
     * @param  list<Datum>  $datums  of the project
     */
    public function __construct(private readonly array $passes, public readonly float $edge, private readonly ?float $scaleError = null, array $datums = [])
    {
        $this->shares = new PassShares($passes, $edge, $datums);
    }

    /** Of what stands in a project now. */
    public static function of(Workpiece $workpiece): self
    {
        $edges = [0.0];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placedMesh();
            $edges[] = $mesh->support === [] ? 0.0 : self::edge(array_sum(Measure::areas($mesh->positions, $mesh->faces)), $mesh->faceCount());
        }

        return new self($workpiece->passes, max($edges), $workpiece->scaleError, $workpiece->datums);
    }

    /** The edge of an even triangle of the mean area, mm. */
    public static function edge(float $area, int $faces): float
    {
        return $faces === 0 ? 0.0 : sqrt(4.0 / sqrt(3.0) * $area / $faces);
    }

    /** What an uncertainty with it holds, in words. */
    public function inWords(): string
    {
        $unknown = array_filter($this->passes, fn (Pass $pass) => $pass->poseError === null);

        $scale = $this->scaleError === null ? '; the scale comes on top: measure a length of the real part and set it by that, and it is in' : ' and of the scale';

        return 'The uncertainty (k = 2) is that of fits and noise'.match (true) {
            $this->passes === [] => "$scale.",
            $unknown === [] => $this->scaleError === null ? " and of where the passes stand$scale." : ', of where the passes stand, and of the scale.',
            default => sprintf('%s; not in it is where %s: register them.', $scale, implode(', ', array_map(fn (Pass $pass) => $pass->name, array_slice($unknown, 0, 3))).(count($unknown) > 3 ? ' and others stand' : (count($unknown) === 1 ? ' stands' : ' stand'))),
        };
    }

    /** A measurement with the error of the scale in what is known of it. */
    public function withScale(Measurement $measured): Measurement
    {
        $times = ['mm' => 1.0, 'mm2' => 2.0, 'mm3' => 3.0][$measured->unit] ?? 0.0;
        if ($this->scaleError === null || $measured->deviation === null || $times === 0.0) {
            return $measured;
        }

        return new Measurement($measured->value, $measured->unit, hypot($measured->deviation, $times * $this->scaleError * $measured->value), $measured->more, $measured->place, $measured->line);
    }

    /** @return float variance of the distance between two things, mm2 */
    public function ofDistance(Datum $one, Datum $two): float
    {
        return $this->ofShares($this->shares->ofDatum($one), $this->shares->ofDatum($two), fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0);
    }

    /** @return float variance of the angle between two things, deg2 */
    public function ofAngle(Datum $one, Datum $two): float
    {
        return $this->ofShares($this->shares->ofDatum($one), $this->shares->ofDatum($two), fn (Pass $pass) => $pass->poseError->turnDeg ?? 0.0);
    }

    /** @return float variance of the diameter of a round thing, mm2 */
    public function ofDiameter(Datum $round): float
    {
        $bend = $this->edge > 0.0 && $round->made !== 'typed' && $round->radius > 0.0 ? 2.0 * min($this->edge ** 2 / (8.0 * $round->radius), $round->radius) : 0.0;
        $shares = $this->shares->ofDatum($round) ?? [];
        $apart = 1.0 - array_sum(array_map(fn (float $share) => $share * $share, $shares));

        return $bend ** 2 + ($shares === [] ? 0.0 : $apart * $this->variance($shares, fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0));
    }

    /**
     * What noise and drift of the passes leave in the surface on a datum: from how much the passes differ there, cell by cell, over how many of them saw a cell.
     *
     * @param  non-empty-list<array{float, float, float}>  $places  of the surface that lies on it
     * @return float|null variance of the mean of the passes, mm2; null where no two of them saw the same cell
     */
    public function ofSurface(Datum $datum, array $places): ?float
    {
        $size = self::CELL * $this->edge;
        $points = array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $this->passes));
        if ($size <= 0.0 || $points > PassShares::MOST_POINTS) {
            return null;
        }
        $lattice = LatticeKeys::of(array_merge(...$places), $size);
        $cells = [];
        foreach ($places as $place) {
            $cells[$lattice->at(...$place)] = [];
        }
        $near = max(PassShares::NEAR * $datum->rms, PassShares::NEAR_OF_SIZE * $datum->size);
        $box = BoundingBox::of(array_merge(...$places));
        foreach ($this->passes as $k => $pass) {
            $p = $pass->sample(max(1, intdiv($points, self::COMPARED)));
            for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
                if ($x < $box->min[0] || $x > $box->max[0] || $y < $box->min[1] || $y > $box->max[1] || $z < $box->min[2] || $z > $box->max[2]) {
                    continue;
                }
                $cell = $lattice->at($x, $y, $z);
                if (isset($cells[$cell]) && abs($outside = $datum->outside([$x, $y, $z])) <= $near) {
                    $cells[$cell][$k] = [($cells[$cell][$k][0] ?? 0.0) + $outside, ($cells[$cell][$k][1] ?? 0) + 1];
                }
            }
        }
        $squares = $free = $seen = $told = 0.0;
        foreach ($cells as $passes) {
            $means = [];
            foreach ($passes as [$sum, $count]) {
                $count < self::FEWEST || $means[] = $sum / $count;
            }
            $count = count($means);
            $seen += $count;
            $told += $count > 0 ? 1.0 : 0.0;
            $mean = array_sum($means) / max(1, $count);
            $squares += array_sum(array_map(fn (float $one) => ($one - $mean) ** 2, $means));
            $free += max(0, $count - 1);
        }

        return $free < 1.0 ? null : $squares / $free * $told / $seen;
    }

    /**
     * @param  array{float, float, float}  $one
     * @param  array{float, float, float}  $oneNormal  of the surface there, of length 1
     * @param  array{float, float, float}  $two
     * @param  array{float, float, float}  $twoNormal
     * @return float variance of the distance between two places on the surface, mm2, for where the passes stand
     */
    public function ofPlaces(array $one, array $oneNormal, array $two, array $twoNormal): float
    {
        return $this->ofShares($this->shares->around($one, $oneNormal), $this->shares->around($two, $twoNormal), fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0);
    }

    /**
     * A pass that stands wrong carries the surface that it saw with it: the volume grows by its shift along the area it saw, taken as a vector.
     *
     * @param  array<int, float>  $centres  of the faces, flat xyz
     * @param  array<int, float>  $crosses  normals of the faces, of the length of twice the area
     * @return float variance of the volume of a body, mm6
     */
    public function ofVolume(array $centres, array $crosses): float
    {
        $variance = 0.0;
        foreach ($this->shares->areas($centres, $crosses) as $k => $vector) {
            $variance += ($this->passes[$k]->poseError->shiftMm ?? 0.0) ** 2 * Vector3::dot($vector, $vector);
        }

        return $variance;
    }

    /** Whether ofVolume() holds where the passes stand: of very many points it does not. */
    public function knowsAreas(): bool
    {
        return $this->shares->isCounted();
    }

    /**
     * @param  array<int, float>|null  $a
     * @param  array<int, float>|null  $b
     * @param  callable(Pass): float  $error
     */
    private function ofShares(?array $a, ?array $b, callable $error): float
    {
        return $a === null || $b === null ? 0.0 : (1.0 - self::common($a, $b)) * ($this->variance($a, $error) + $this->variance($b, $error));
    }

    /**
     * @param  array<int, float>  $shares
     * @param  callable(Pass): float  $error
     */
    private function variance(array $shares, callable $error): float
    {
        $sum = 0.0;
        foreach ($shares as $k => $share) {
            $sum += $share * $error($this->passes[$k]) ** 2;
        }

        return $sum;
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     */
    private static function common(array $a, array $b): float
    {
        $common = 0.0;
        foreach ($a as $k => $share) {
            $common += min($share, $b[$k] ?? 0.0);
        }

        return $common;
    }
}
