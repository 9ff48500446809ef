<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;

/** Which passes saw a piece of surface, and how much of it each: counted on some of their points. */
final class PassShares
{
    /** Points of all passes beyond which none are read for it, and all passes count alike. */
    public const MOST_POINTS = 6_000_000;

    /** A point lies on a datum within this many times the error of its fit: the noise of single points is several times that of the surface made of them. */
    public const NEAR = 8.0;

    /** And within this share of its size at least, where the fit is exact. */
    public const NEAR_OF_SIZE = 0.002;

    /** Points of a pass that are looked at: of 4,000 a share is right to a hundredth. */
    private const SAMPLED = 4000;

    /** The passes that saw a place are told from points within this many edges of the body around it. */
    private const AROUND = 4.0;

    /** But at least this share of the size of the passes: of 4,000 points over a side of that size some six stand that near to a place. */
    private const AROUND_OF_SIZE = 0.04;

    /** And no farther from the plane of the surface there than this share of that way: what lies behind is another side of the part. */
    private const BEHIND = 0.2;

    /** @var list<list<float>>|null flat xyz of some points of each pass, in the project */
    private ?array $points = null;

    /** @var array<string, array<int, float>|null> by datum */
    private array $known = [];

    /**
     * @param  list<Pass>  $passes
     * @param  float  $edge  mean edge of what was made of them, mm; 0 where there is nothing
     * @param  list<Datum>  $datums  among which are those that others were made of
     */
    public function __construct(private readonly array $passes, private readonly float $edge, private readonly array $datums)
    {
    }

    /** @return array<int, float>|null how much of a datum each pass saw, of 1 in all; null of what was typed, and where no pass saw it */
    public function ofDatum(Datum $datum): ?array
    {
        if ($datum->made === 'typed' || $this->passes === []) {
            return null;
        }
        $key = serialize([$datum->origin, $datum->direction, $datum->radius]);

        return array_key_exists($key, $this->known) ? $this->known[$key] : $this->known[$key] = match (true) {
            $datum->parents !== [] => $this->ofParents($datum),
            $datum->kind === 'point' => $this->around($datum->origin, [0.0, 0.0, 0.0]),
            default => $this->counted($datum),
        };
    }

    /** @return array<int, float>|null the mean of those of what it was made of */
    private function ofParents(Datum $datum): ?array
    {
        $parents = array_values(array_filter($this->datums, fn (Datum $one) => in_array($one->name, $datum->parents, true)));
        $mean = [];
        foreach ($parents as $parent) {
            foreach ($this->ofDatum($parent) ?? [] as $k => $share) {
                $mean[$k] = ($mean[$k] ?? 0.0) + $share;
            }
        }
        $all = array_sum($mean);

        return $all > 0.0 ? array_map(fn (float $share) => $share / $all, $mean) : null;
    }

    /**
     * How much of the surface around a place each pass saw.
     *
     * @param  array{float, float, float}  $place
     * @param  array{float, float, float}  $normal  of length 1; 0 0 0 where nothing is known of it
     * @return array<int, float>|null
     */
    public function around(array $place, array $normal): ?array
    {
        $all = array_merge(...$this->samples());
        if ($all === []) {
            return $this->where(fn () => true);
        }
        $reach = max(self::AROUND * $this->edge, self::AROUND_OF_SIZE * BoundingBox::of($all)->diagonal());

        return $this->where(function (array $at) use ($place, $normal, $reach): bool {
            $way = Vector3::minus($at, $place);

            return Vector3::length($way) <= $reach && abs(Vector3::dot($way, $normal)) <= self::BEHIND * $reach;
        });
    }

    /**
     * The area that each pass saw, as a vector: of faces seen by several, each has its share.
     *
     * @param  array<int, float>  $centres  of the faces, flat xyz
     * @param  array<int, float>  $crosses  normals of the faces, of the length of twice the area
     * @return array<int, array{float, float, float}> mm2, by pass; empty above MOST_POINTS, where no points are read
     */
    public function areas(array $centres, array $crosses): array
    {
        $points = $this->samples();
        if ($points === []) {
            return [];
        }
        $all = array_merge(...$points);
        $lattice = LatticeKeys::of([...$all, ...$centres], max(1e-9, self::AROUND_OF_SIZE * BoundingBox::of($all)->diagonal(), self::AROUND * $this->edge));
        $cells = [];
        foreach ($points as $k => $p) {
            $weight = self::weight($this->passes[$k], $p);
            for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                $cell = $lattice->at($p[$o], $p[$o + 1], $p[$o + 2]);
                $cells[$cell][$k] = ($cells[$cell][$k] ?? 0.0) + $weight;
            }
        }
        $seen = [];
        for ($o = 0, $n = count($centres); $o < $n; $o += 3) {
            $counts = $cells[$lattice->at($centres[$o], $centres[$o + 1], $centres[$o + 2])] ?? [];
            $sum = array_sum($counts);
            foreach ($counts as $k => $count) {
                $area = 0.5 * $count / $sum;
                $seen[$k] = [($seen[$k][0] ?? 0.0) + $area * $crosses[$o], ($seen[$k][1] ?? 0.0) + $area * $crosses[$o + 1], ($seen[$k][2] ?? 0.0) + $area * $crosses[$o + 2]];
            }
        }

        return $seen;
    }

    /** @return array<int, float>|null */
    private function counted(Datum $datum): ?array
    {
        $near = max(self::NEAR * $datum->rms, self::NEAR_OF_SIZE * $datum->size);

        return $this->where(function (array $at) use ($datum, $near): bool {
            if (abs($datum->outside($at)) > $near) {
                return false;
            }
            $way = Vector3::minus($at, $datum->origin);
            $height = Vector3::dot($way, $datum->direction);

            return ($datum->kind === 'plane' ? sqrt(max(0.0, Vector3::dot($way, $way) - $height ** 2)) : abs($height)) <= $datum->size;
        });
    }

    /**
     * @param  callable(array{float, float, float}): bool  $counts  whether a point does
     * @return array<int, float>|null how much of what counts each pass saw, of 1 in all; null where none saw any
     */
    private function where(callable $counts): ?array
    {
        $points = $this->samples();
        if ($points === [] && $this->passes !== []) {
            return array_fill(0, count($this->passes), 1.0 / count($this->passes));
        }
        $found = [];
        foreach ($points as $k => $p) {
            $count = 0;
            for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                $count += $counts([$p[$o], $p[$o + 1], $p[$o + 2]]) ? 1 : 0;
            }
            $count === 0 || $found[$k] = $count * self::weight($this->passes[$k], $p);
        }
        $all = array_sum($found);

        return $all > 0.0 ? array_map(fn (float $count) => $count / $all, $found) : null;
    }

    /**
     * How many points of a pass one of those looked at stands for: a pass of more points than others was thinned more.
     *
     * @param  list<float>  $sampled
     */
    private static function weight(Pass $pass, array $sampled): float
    {
        return max(1.0, $pass->keptCount() / max(1, intdiv(count($sampled), 3)));
    }

    /** Whether points are looked at; of more all passes count alike, and of the area that each saw nothing is known. */
    public function isCounted(): bool
    {
        return $this->passes === [] || $this->samples() !== [];
    }

    /** @return list<list<float>> some points of each pass, flat xyz in the project; empty above MOST_POINTS */
    private function samples(): array
    {
        if (array_sum(array_map(fn (Pass $pass) => $pass->count(), $this->passes)) > self::MOST_POINTS) {
            return [];
        }

        return $this->points ??= array_map(fn (Pass $pass) => $pass->sample(max(1, intdiv($pass->keptCount(), self::SAMPLED))), $this->passes);
    }
}
