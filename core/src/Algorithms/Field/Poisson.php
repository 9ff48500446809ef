<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * A field that is negative inside and positive outside, whose gradient is that of oriented points and which is near zero at them.
 *
 * Source    Kazhdan & Hoppe 2013, "Screened Poisson surface reconstruction": least squares of grad u = V with point constraints, solved from coarse
 *           to fine. Departs: trilinear functions on nested lattices instead of B-splines on an octree; each level solves for the whole field
 *           on its cells and keeps what the coarser one says at their border; on the border of the lattice the field is held outside, so that the
 *           surface closes.
 * Cost      about 8 microseconds a cell of the finest level, some five cells a cell that the surface crosses.
 *
 * @internal
 */
final class Poisson
{
    /** The coarsest level is 2^4 cells along each axis, all of them there. */
    private const COARSEST = 4;

    /** The weight of the points against the gradient, by the edge of a cell (alpha of the paper). */
    private const SCREEN = 4.0;

    /** Steps from a point within which cells belong to a level. */
    private const REACH = 2;

    /** What the field is held at on the border of the lattice: half the step across the surface. */
    private const OUTSIDE = 0.5;

    /** @var list<PoissonLevel> */
    private array $levels = [];

    /** @var array<int, float> how many points a cell of two finest edges has, spread to its neighbours, by name */
    private array $density = [];

    /** @var list<array<int, int>> passes that saw a cell of two finest edges, by name, as bits of sets: see Volume::PASSES_A_SET */
    private array $sets = [];

    /** Bits of a number in the name of a cell; see PoissonLevel. */
    private readonly int $b;

    /** The density that half of the points have at least. */
    public float $usual = 0.0;

    /**
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, float>  $n  flat unit normals, outward
     * @param  array<int, float>  $quality  weight a point, over 0
     * @param  array<int, int>  $counts  how many of the points each pass has, one pass after the other
     * @param  array{float, float, float}  $corner  lower corner of the lattice
     * @param  int  $depth  the finest level has 2^depth cells along each axis
     * @param  callable(float): void  $breathe  told the share done; may throw to stop
     */
    public function __construct(array $p, array $n, array $quality, array $counts, private readonly array $corner, public readonly float $h, public readonly int $depth, callable $breathe)
    {
        $this->b = $depth + 2;
        $area = $this->areas($p, $quality, $counts);
        for ($l = self::COARSEST; $l <= $depth; $l++) {
            $breathe(($l - self::COARSEST) / ($depth - self::COARSEST + 1));
            $level = new PoissonLevel($h * 2 ** ($depth - $l), $this->b);
            $samples = $this->samples($p, $n, $area, $level->h);
            $coarse = $this->levels === [] ? null : $this->levels[count($this->levels) - 1];
            $level->fill($coarse === null ? $this->all() : $this->chosen($coarse, $samples));
            $free = $level->free();
            if ($coarse === null) {
                foreach ($free as $v => $may) {
                    $level->field[$v] = $may > 0.0 ? 0.0 : self::OUTSIDE;
                }
            } else {
                $level->interpolate($coarse);
            }
            [$right, $weight, $at] = $this->system($level, $samples);
            $level->solve($right, $free, $weight, $at, $coarse === null ? 200 : 40, 1e-3, fn () => $breathe(($l - self::COARSEST + 0.5) / ($depth - self::COARSEST + 1)));
            $this->levels[] = $level;
        }
        $breathe(1.0);
    }

    /** The finest level as a volume whose zero surface can be drawn. */
    public function volume(): Volume
    {
        $level = $this->levels[count($this->levels) - 1];
        $b = $this->b;
        $mask = (1 << $b) - 1;
        $blocks = (2 ** $this->depth >> 3) + 1;
        $volume = new Volume($this->h, $this->corner[0], $this->corner[1], $this->corner[2], $blocks, $blocks, $blocks);
        $top = $volume->top;
        $volume->top = [];
        $list = [];
        foreach ($level->nodes as $name => $_) {
            $t = (($name >> 2 * $b + 3) * $blocks + (($name >> $b & $mask) >> 3)) * $blocks + (($name & $mask) >> 3);
            if ($top[$t] < 0) {
                $top[$t] = count($list);
                $list[] = $t;
            }
        }
        $many = 512 * count($list);
        $distance = $weight = array_fill(0, $many, 0.0);
        $seen = array_fill(0, $many, 0);
        $more = array_fill(0, count($this->sets) - 1, $seen);
        foreach ($level->nodes as $name => $v) {
            $x = $name >> 2 * $b;
            $y = $name >> $b & $mask;
            $z = $name & $mask;
            $k = $top[(($x >> 3) * $blocks + ($y >> 3)) * $blocks + ($z >> 3)] << 9 | ($z & 7) << 6 | ($y & 7) << 3 | ($x & 7);
            $distance[$k] = $level->field[$v];
            $weight[$k] = 1.0;
            $cell = ($x >> 1) << 2 * $b | ($y >> 1) << $b | $z >> 1;
            $seen[$k] = $this->sets[0][$cell] ?? 0;
            foreach ($more as $set => $_) {
                $more[$set][$k] = $this->sets[$set + 1][$cell] ?? 0;
                if ($seen[$k] === 0 && $more[$set][$k] !== 0) {
                    $seen[$k] = 1 << Volume::PASSES_A_SET;
                }
            }
        }
        $volume->top = $top;
        $volume->blocks = $list;
        $volume->distance = $distance;
        $volume->weight = $weight;
        $volume->seen = $seen;
        $volume->seenByMore = $more;

        return $volume;
    }

    /** How densely points lie around a place, as a share of what is usual; 0 where there are none. */
    public function backing(float $x, float $y, float $z): float
    {
        return $this->usual > 0.0 ? $this->densityAt($x, $y, $z) / $this->usual : 0.0;
    }

    private function densityAt(float $x, float $y, float $z): float
    {
        $w = 0.5 / $this->h;
        // The cells' middles are the places of the figures.
        $x = ($x - $this->corner[0]) * $w - 0.5;
        $y = ($y - $this->corner[1]) * $w - 0.5;
        $z = ($z - $this->corner[2]) * $w - 0.5;
        $i = (int) floor($x);
        $j = (int) floor($y);
        $k = (int) floor($z);
        $x -= $i;
        $y -= $j;
        $z -= $k;
        $sum = 0.0;
        for ($m = 0; $m < 8; $m++) {
            $share = (($m & 1) === 1 ? $x : 1.0 - $x) * (($m & 2) === 2 ? $y : 1.0 - $y) * (($m & 4) === 4 ? $z : 1.0 - $z);
            $sum += $share * ($this->density[($i + ($m & 1)) << 2 * $this->b | ($j + ($m >> 1 & 1)) << $this->b | ($k + ($m >> 2))] ?? 0.0);
        }

        return $sum;
    }

    /**
     * The area each point stands for: where points lie closely they share it.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $quality
     * @param  array<int, int>  $counts
     * @return array<int, float> mm2
     */
    private function areas(array $p, array $quality, array $counts): array
    {
        $w = 0.5 / $this->h;
        [$x0, $y0, $z0] = $this->corner;
        $bits = $this->b;
        $density = $seen = [];
        $pass = -1;
        $next = 0;
        $bit = 1;
        foreach ($quality as $i => $q) {
            while ($i >= $next) {
                $next += $counts[++$pass];
                $bit = 1 << ($pass % Volume::PASSES_A_SET);
                if ($bit === 1 && $pass > 0) {
                    $this->sets[] = $seen;
                    $seen = [];
                }
            }
            $x = ($p[3 * $i] - $x0) * $w - 0.5;
            $y = ($p[3 * $i + 1] - $y0) * $w - 0.5;
            $z = ($p[3 * $i + 2] - $z0) * $w - 0.5;
            $a = (int) $x;
            $b = (int) $y;
            $c = (int) $z;
            $x -= $a;
            $y -= $b;
            $z -= $c;
            for ($m = 0; $m < 8; $m++) {
                $name = ($a + ($m & 1)) << 2 * $bits | ($b + ($m >> 1 & 1)) << $bits | ($c + ($m >> 2));
                $density[$name] = ($density[$name] ?? 0.0) + $q * (($m & 1) === 1 ? $x : 1.0 - $x) * (($m & 2) === 2 ? $y : 1.0 - $y) * (($m & 4) === 4 ? $z : 1.0 - $z);
                $seen[$name] = ($seen[$name] ?? 0) | $bit;
            }
        }
        $this->sets[] = $seen;
        $this->density = $density;
        $area = $all = [];
        // Two thirds: what is left of the figure of a flat layer after it was spread and read across itself.
        $cell = 4.0 * $this->h * $this->h * 2.0 / 3.0;
        foreach ($quality as $i => $q) {
            $d = $this->densityAt($p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
            $all[] = $d;
            $area[] = $q * $cell / max(1e-9, $d);
        }
        sort($all);
        $this->usual = $all[intdiv(count($all), 2)];

        return $area;
    }

    /**
     * The points of each cell as one: where they lie on average, their areas' sum and their normals' by area.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  array<int, float>  $area
     * @return array<int, array{float, float, float, float, float, float, float}> by name of the cell: area; place times area; normal times area
     */
    private function samples(array $p, array $n, array $area, float $h): array
    {
        $w = 1.0 / $h;
        [$x0, $y0, $z0] = $this->corner;
        $b = $this->b;
        $number = $sums = [];
        $next = 0;
        foreach ($area as $i => $a) {
            $x = $p[3 * $i] - $x0;
            $y = $p[3 * $i + 1] - $y0;
            $z = $p[3 * $i + 2] - $z0;
            $name = (int) ($x * $w) << 2 * $b | (int) ($y * $w) << $b | (int) ($z * $w);
            $o = $number[$name] ?? -1;
            if ($o < 0) {
                $o = $number[$name] = $next;
                $next += 7;
                for ($k = 0; $k < 7; $k++) {
                    $sums[] = 0.0;
                }
            }
            $sums[$o] += $a;
            $sums[$o + 1] += $a * $x;
            $sums[$o + 2] += $a * $y;
            $sums[$o + 3] += $a * $z;
            $sums[$o + 4] += $a * $n[3 * $i];
            $sums[$o + 5] += $a * $n[3 * $i + 1];
            $sums[$o + 6] += $a * $n[3 * $i + 2];
        }

        return array_map(fn (int $o) => [$sums[$o], $sums[$o + 1], $sums[$o + 2], $sums[$o + 3], $sums[$o + 4], $sums[$o + 5], $sums[$o + 6]], $number);
    }

    /** @return array<int, true> */
    private function all(): array
    {
        $cells = [];
        $n = 1 << self::COARSEST;
        for ($x = 0; $x < $n; $x++) {
            for ($y = 0; $y < $n; $y++) {
                for ($z = 0; $z < $n; $z++) {
                    $cells[$x << 2 * $this->b | $y << $this->b | $z] = true;
                }
            }
        }

        return $cells;
    }

    /**
     * The cells of the next level: around its samples, and around where the coarser field crosses zero.
     *
     * @param  array<int, mixed>  $samples  by name
     * @return array<int, true>
     */
    private function chosen(PoissonLevel $coarse, array $samples): array
    {
        $b = $this->b;
        $mask = (1 << $b) - 1;
        $crossed = [];
        foreach ($coarse->names as $c => $name) {
            $inside = 0;
            for ($o = 8 * $c, $e = $o + 8; $o < $e; $o++) {
                $inside += $coarse->field[$coarse->corners[$o]] < 0.0 ? 1 : 0;
            }
            if ($inside === 0 || $inside === 8) {
                continue;
            }
            for ($k = 0; $k < 8; $k++) {
                $crossed[2 * $name + (($k & 1) << 2 * $b) + (($k >> 1 & 1) << $b) + ($k >> 2)] = true;
            }
        }
        $wanted = $this->widened(array_map(fn () => true, $samples), self::REACH) + $this->widened($crossed, 1);

        return array_filter($wanted, fn (int $name) => isset($coarse->cells[($name >> 2 * $b + 1) << 2 * $b | ($name >> $b & $mask) >> 1 << $b | ($name & $mask) >> 1]), ARRAY_FILTER_USE_KEY);
    }

    /**
     * @param  array<int, true>  $cells
     * @return array<int, true> these and all up to a number of steps away along each axis
     */
    private function widened(array $cells, int $by): array
    {
        foreach ([1 << 2 * $this->b, 1 << $this->b, 1] as $step) {
            $wide = $cells;
            foreach ($cells as $name => $_) {
                for ($k = -$by; $k <= $by; $k++) {
                    $wide[$name + $k * $step] = true;
                }
            }
            $cells = $wide;
        }

        return $cells;
    }

    /**
     * @param  array<int, array{float, float, float, float, float, float, float}>  $samples
     * @return array{array<int, float>, array<int, float>, array<int, float>} right side a node, screening a cell, place of the sample in each cell
     */
    private function system(PoissonLevel $level, array $samples): array
    {
        $h = $level->h;
        $b = $this->b;
        $mask = (1 << $b) - 1;
        $right = array_fill(0, count($level->field), 0.0);
        $weight = array_fill(0, count($level->names), 0.0);
        $at = array_fill(0, 3 * count($level->names), 0.0);
        foreach ($samples as $name => [$area, $x, $y, $z, $nx, $ny, $nz]) {
            $c = $level->cells[$name] ?? -1;
            if ($c < 0) {
                continue;
            }
            $fx = min(1.0, max(0.0, $x / $area / $h - ($name >> 2 * $b)));
            $fy = min(1.0, max(0.0, $y / $area / $h - ($name >> $b & $mask)));
            $fz = min(1.0, max(0.0, $z / $area / $h - ($name & $mask)));
            $at[3 * $c] = $fx;
            $at[3 * $c + 1] = $fy;
            $at[3 * $c + 2] = $fz;
            $weight[$c] = self::SCREEN * $area / $h;
            for ($k = 0; $k < 8; $k++) {
                [$wx, $sx] = ($k & 1) === 1 ? [$fx, 1.0] : [1.0 - $fx, -1.0];
                [$wy, $sy] = ($k & 2) === 2 ? [$fy, 1.0] : [1.0 - $fy, -1.0];
                [$wz, $sz] = ($k & 4) === 4 ? [$fz, 1.0] : [1.0 - $fz, -1.0];
                $right[$level->corners[8 * $c + $k]] += ($nx * $sx * $wy * $wz + $ny * $sy * $wx * $wz + $nz * $sz * $wx * $wy) / $h;
            }
        }

        return [$right, $weight, $at];
    }
}
