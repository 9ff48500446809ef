<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Cloud\NoiseWeight;
use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/** The kept points of all passes in project coordinates, with normals, and how much each has to say. */
final class MergedPasses
{
    /** Lone points are looked for where the box around all is this many times as long as a point reaches. */
    public const WIDE = 200.0;

    /** Points farther apart than about this many reaches do not belong together, and a cluster of fewer points makes no surface. */
    private const APART = 16.0;

    public const FEWEST = 30;

    /** Points of a pass that its area is found from, about. */
    private const SAMPLED = 20_000;

    /** Share of the points at either end of each axis that may be strays. */
    private const BEYOND = 0.002;

    /** So many times the usual bend of a pass halves the weight of a point. */
    private const BENT = 2.0;

    /** @var \WeakMap<Workpiece, float>|null areas that were asked for */
    private static ?\WeakMap $areas = null;

    /**
     * @param  list<float>  $positions  flat xyz, pass after pass
     * @param  list<float>  $normals  unit, outward
     * @param  list<float>  $quality  weight a point: by the angle between normal and ray, the distance and the noise of its pass; 1 for one of a typical pass seen squarely
     * @param  list<float>  $flat  a point: quality, less where the surface bends more than is usual
     * @param  list<int>  $counts  points of each pass
     */
    private function __construct(public readonly array $positions, public readonly array $normals, public readonly array $quality, public readonly array $flat, public readonly array $counts)
    {
    }

    /**
     * @param  list<Pass>  $passes
     *
     * @throws UnsuitableInput when no point is left
     */
    public static function of(array $passes, Progress $progress): self
    {
        if ($passes === []) {
            throw UnsuitableInput::because('There is no pass to fuse; bring one in first.');
        }
        $passes = array_values(array_filter($passes, fn (Pass $pass) => $pass->keptCount() > 0));
        if ($passes === []) {
            throw UnsuitableInput::because('All points of the passes are cut away; bring some back first.');
        }
        $positions = $normals = $quality = $flat = $counts = [];
        $oriented = OrientedCloud::each(array_map(fn (Pass $pass) => $pass->placed(...), $passes), $progress);
        $usual = Median::of(array_column($oriented, 'noise'));
        foreach ($oriented as ['cloud' => $cloud, 'noise' => $noise, 'bend' => $bend]) {
            $q = self::quality($cloud, NoiseWeight::ofPass($noise, $usual));
            foreach ($cloud->positions as $v) {
                $positions[] = $v;
            }
            foreach ($cloud->normals as $v) {
                $normals[] = $v;
            }
            foreach ($q as $v) {
                $quality[] = $v;
            }
            // At edges points still say that there is a surface, but not where: they count less when vertices are placed.
            foreach (self::flatness($bend) as $i => $v) {
                $flat[] = $v * $q[$i];
            }
            $counts[] = $cloud->count();
        }

        return new self($positions, $normals, $quality, $flat, $counts);
    }

    /**
     * Without points that are far from all others and too few to make a surface.
     *
     * @param  float  $reach  how far a point reaches in the volume, mm
     */
    public function withoutLonePoints(float $reach): self
    {
        $box = BoundingBox::of($this->positions);
        // Where the object fills its box nothing is gained, and no point is looked at twice.
        if ($box->longestSide() < self::WIDE * $reach) {
            return $this;
        }
        ['label' => $label, 'size' => $size] = Clusters::of($this->positions, self::APART * $reach);
        if (end($size) >= self::FEWEST || $size[0] < self::FEWEST) {
            return $this;
        }
        $positions = $normals = $quality = $flat = $counts = [];
        $i = 0;
        foreach ($this->counts as $many) {
            $kept = 0;
            for ($end = $i + $many; $i < $end; $i++) {
                if ($size[$label[$i]] < self::FEWEST) {
                    continue;
                }
                $kept++;
                array_push($positions, $this->positions[3 * $i], $this->positions[3 * $i + 1], $this->positions[3 * $i + 2]);
                array_push($normals, $this->normals[3 * $i], $this->normals[3 * $i + 1], $this->normals[3 * $i + 2]);
                $quality[] = $this->quality[$i];
                $flat[] = $this->flat[$i];
            }
            $counts[] = $kept;
        }

        return new self($positions, $normals, $quality, $flat, $counts);
    }

    /** The area of the object, mm2, from the cells of a fiftieth of its size that points occupy. */
    public static function area(Workpiece $workpiece): float
    {
        // An estimate asks before the step does.
        self::$areas ??= new \WeakMap;

        return self::$areas[$workpiece] ??= self::measured($workpiece);
    }

    private static function measured(Workpiece $workpiece): float
    {
        $some = [];
        foreach ($workpiece->passes as $pass) {
            foreach ($pass->sample(intdiv($pass->keptCount(), self::SAMPLED) + 1) as $value) {
                $some[] = $value;
            }
        }
        if ($some === []) {
            return 0.0;
        }
        $some = self::inMidst($some);
        $cell = max(1e-6, BoundingBox::of($some)->longestSide() / 50.0);
        $names = LatticeKeys::of($some, $cell);
        $cells = [];
        for ($o = 0, $e = count($some); $o < $e; $o += 3) {
            $cells[$names->at($some[$o], $some[$o + 1], $some[$o + 2])] = true;
        }

        // Cells that no point of the sample met: of n cells, k points meet n (1 - exp(-k / n)).
        $met = count($cells);
        $points = intdiv(count($some), 3);
        for ($all = (float) $met, $k = 0; $k < 20 && $points > $met; $k++) {
            $all = $met / (1.0 - exp(-$points / $all));
        }

        // A surface in general position passes 1.5 times its area in cells.
        return $all * $cell * $cell / 1.5;
    }

    /**
     * The points without those that lie far beyond nearly all others: a stray would make the cells as large as the way to it.
     *
     * @param  non-empty-list<float>  $p
     * @return non-empty-list<float>
     */
    private static function inMidst(array $p): array
    {
        $low = $high = [];
        for ($c = 0; $c < 3; $c++) {
            $along = [];
            for ($o = $c, $e = count($p); $o < $e; $o += 3) {
                $along[] = $p[$o];
            }
            sort($along);
            $cut = (int) (self::BEYOND * count($along));
            [$from, $to] = [$along[$cut], $along[count($along) - 1 - $cut]];
            $low[] = $from - 0.5 * ($to - $from) - 1e-9;
            $high[] = $to + 0.5 * ($to - $from) + 1e-9;
        }
        $kept = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            if ($p[$o] >= $low[0] && $p[$o] <= $high[0] && $p[$o + 1] >= $low[1] && $p[$o + 1] <= $high[1] && $p[$o + 2] >= $low[2] && $p[$o + 2] <= $high[2]) {
                array_push($kept, $p[$o], $p[$o + 1], $p[$o + 2]);
            }
        }

        return $kept === [] ? $p : $kept;
    }

    /**
     * Weight a point, as the inverse of its variance: the noise of the pass, which grows with the square of the distance and with the slant of the ray;
     * near nothing for grazing points. Where the sensor is not known, that of the pass alone.
     *
     * @param  float  $pass  weight of the pass among the others
     * @return list<float>
     */
    public static function quality(PointCloud $cloud, float $pass): array
    {
        $n = $cloud->count();
        if ($cloud->sensorOrigin === null) {
            return array_fill(0, $n, $pass);
        }
        [$sx, $sy, $sz] = $cloud->sensorOrigin;
        $p = $cloud->positions;
        $d = $cloud->normals;
        $quality = $squares = [];
        for ($o = 0, $e = 3 * $n; $o < $e; $o += 3) {
            $x = $sx - $p[$o];
            $y = $sy - $p[$o + 1];
            $z = $sz - $p[$o + 2];
            $l = $x * $x + $y * $y + $z * $z;
            $c = $d[$o] * $x + $d[$o + 1] * $y + $d[$o + 2] * $z;
            $quality[] = $c > 0.0 && $l > 0.0 ? max(0.02, $c * $c / $l) : 0.02;
            $squares[] = $l;
        }
        $usual = Median::of($squares);
        foreach ($squares as $i => $l) {
            $quality[$i] *= $pass * NoiseWeight::ofRange($l, $usual);
        }

        return $quality;
    }

    /**
     * Near an edge the neighbours of a point lie on both sides of it, and its normal is neither's: such points say little of where the
     * surface is. What is usual in a pass counts as flat.
     *
     * @param  array<int, float>  $bend
     * @return list<float>
     */
    public static function flatness(array $bend): array
    {
        $bend = array_values($bend);
        $usual = max(1e-9, self::BENT * Median::of($bend));

        return array_map(fn (float $b) => 1.0 / (1.0 + ($b / $usual) ** 2), $bend);
    }
}
