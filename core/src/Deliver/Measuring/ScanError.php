<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Surface\Measure;
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
    /** Points of a pass that are looked at: of 4,000 a share is right to a hundredth. */
    private const SAMPLED = 4000;

    /** Points of all passes beyond which none are read for it, and all passes count alike. */
    private const MOST_POINTS = 6_000_000;

    /** A point lies on a datum within this many times the error of its fit: the noise of single points is several times that of the surface made of them. */
    private const NEAR = 8.0;

    /** And within this share of its size at least, where the fit is exact. */
    private const NEAR_OF_SIZE = 0.002;

    /** @var list<list<float>>|null flat xyz of some points of each pass, in the project */
    private ?array $points = null;

    /** @var array<string, array<int, float>|null> shares of the passes, by datum */
    private array $shares = [];

    /**
     * @param  list<Pass>  $passes
     * @param  float  $edge  mean edge of the coarsest body that was made of passes here, mm; 0 where there is none
     * @param  float|null  $scaleError  how well the scale is known, see Result
     */
    public function __construct(private readonly array $passes, private readonly float $edge, private readonly ?float $scaleError = null)
    {
    }

    /** Of what stands in a project now. */
    public static function of(Workpiece $workpiece): self
    {
        $edges = [0.0];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placedMesh();
            $edges[] = $mesh->support === [] ? 0.0 : self::edge(array_sum(Measure::areas($mesh->positions, $mesh->faces)), $mesh->faceCount());
        }

        return new self($workpiece->passes, max($edges), $workpiece->scaleError);
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

        return 'The uncertainty (k = 2) is that of the fits'.match (true) {
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
        [$a, $b] = [$this->sharesOf($one), $this->sharesOf($two)];
        if ($a === null || $b === null) {
            return 0.0;
        }

        return (1.0 - self::common($a, $b)) * ($this->variance($a, fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0) + $this->variance($b, fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0));
    }

    /** @return float variance of the angle between two things, deg2 */
    public function ofAngle(Datum $one, Datum $two): float
    {
        [$a, $b] = [$this->sharesOf($one), $this->sharesOf($two)];
        if ($a === null || $b === null) {
            return 0.0;
        }

        return (1.0 - self::common($a, $b)) * ($this->variance($a, fn (Pass $pass) => $pass->poseError->turnDeg ?? 0.0) + $this->variance($b, fn (Pass $pass) => $pass->poseError->turnDeg ?? 0.0));
    }

    /** @return float variance of the diameter of a round thing, mm2 */
    public function ofDiameter(Datum $round): float
    {
        $bend = $this->edge > 0.0 && $round->made !== 'typed' && $round->radius > 0.0 ? 2.0 * min($this->edge ** 2 / (8.0 * $round->radius), $round->radius) : 0.0;
        $shares = $this->sharesOf($round) ?? [];
        $apart = 1.0 - array_sum(array_map(fn (float $share) => $share * $share, $shares));

        return $bend ** 2 + ($shares === [] ? 0.0 : $apart * $this->variance($shares, fn (Pass $pass) => $pass->poseError->shiftMm ?? 0.0));
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

    /** @return array<int, float>|null how much of a datum each pass saw, of 1 in all; null of what was typed, and where no pass saw it */
    private function sharesOf(Datum $datum): ?array
    {
        if ($datum->made === 'typed' || $this->passes === []) {
            return null;
        }
        $key = serialize([$datum->origin, $datum->direction, $datum->radius]);

        return array_key_exists($key, $this->shares) ? $this->shares[$key] : $this->shares[$key] = $this->counted($datum);
    }

    /** @return array<int, float>|null */
    private function counted(Datum $datum): ?array
    {
        if (array_sum(array_map(fn (Pass $pass) => $pass->count(), $this->passes)) > self::MOST_POINTS) {
            return array_fill(0, count($this->passes), 1.0 / count($this->passes));
        }
        $this->points ??= array_map(fn (Pass $pass) => $pass->sample(max(1, intdiv($pass->keptCount(), self::SAMPLED))), $this->passes);
        $near = max(self::NEAR * $datum->rms, self::NEAR_OF_SIZE * $datum->size);
        $counts = [];
        foreach ($this->points as $k => $points) {
            $count = 0;
            for ($o = 0, $n = count($points); $o < $n; $o += 3) {
                $at = [$points[$o], $points[$o + 1], $points[$o + 2]];
                if (abs($datum->outside($at)) > $near) {
                    continue;
                }
                $way = Vector3::minus($at, $datum->origin);
                $height = Vector3::dot($way, $datum->direction);
                $reach = $datum->kind === 'plane' ? sqrt(max(0.0, Vector3::dot($way, $way) - $height ** 2)) : abs($height);
                $count += $reach <= $datum->size ? 1 : 0;
            }
            // A pass of more points than others was thinned more.
            $count === 0 || $counts[$k] = $count * max(1.0, $this->passes[$k]->keptCount() / max(1, intdiv(count($points), 3)));
        }
        $all = array_sum($counts);

        return $all > 0.0 ? array_map(fn (float $count) => $count / $all, $counts) : null;
    }
}
