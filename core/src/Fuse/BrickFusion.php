<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Field\Bricks;
use Emberstone\Core\Algorithms\Field\DualSurface;
use Emberstone\Core\Algorithms\Field\Sharpen;
use Emberstone\Core\Algorithms\Field\Splat;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\NoiseWeight;
use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\Scratch;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Operation\Pass;

/**
 * The surface of more points than fit in memory. Each pass is read once for its normals and written to the bricks of space that its points lie in; each brick is then made into surface alone, and
 * the parts are put together by the names of their vertices. The same surface comes of it whatever the budget: a smaller one makes more bricks.
 *
 * Memory    per process the largest pass (BYTES_TO_ORIENT a point) or a brick, both within the budget; and the finished surface.
 * Disk      RECORD bytes a point, and a fifth of that where bricks overlap.
 *
 * @internal
 */
final class BrickFusion
{
    /** Bytes a point takes while its normal is found: its pass' grid, neighbourhoods and the packed answer. */
    public const BYTES_TO_ORIENT = 480.0;

    /** Bytes that a brick takes for a point, and for a block of 512 voxels near one: distances, weights, sets of passes, patterns, and the surface in it. */
    private const BYTES_A_POINT = 330.0;

    private const BYTES_A_BLOCK = 200_000.0;

    /** Bytes of a process that has done nothing yet. */
    private const BYTES_OF_PROCESS = 100e6;

    /** Bytes of a stored point: its place as doubles, its normal and both its weights as singles. */
    private const RECORD = 44;

    private readonly Scratch $scratch;

    /** @param  non-empty-list<Pass>  $passes  with points */
    private function __construct(private readonly array $passes, private readonly float $voxel, private readonly float $reach, private readonly float $share, private readonly float $budgetMb)
    {
        $this->scratch = new Scratch;
    }

    /**
     * @param  list<Pass>  $passes
     * @param  float  $reach  of a point in the volume, mm
     * @param  float  $share  how far vertices go onto the planes of the points around them, 0 to 1
     * @param  float  $budgetMb  for the bricks that are worked on at a time
     * @return array{positions: list<float>, quads: list<int>, support: list<int>} as DualSurface gives it; support with what the points say (Evidence)
     *
     * @throws UnsuitableInput when no surface comes of the points
     */
    public static function surface(array $passes, float $voxel, float $reach, float $share, float $budgetMb, Progress $progress): array
    {
        $passes = array_values(array_filter($passes, fn (Pass $pass) => $pass->keptCount() > 0));
        if ($passes === []) {
            throw UnsuitableInput::because('All points of the passes are cut away; bring some back first.');
        }
        $fusion = new self($passes, $voxel, $reach, $share, $budgetMb);
        $bricks = $fusion->bricks(new PartProgress($progress, 0.0, 0.15));
        $noises = $fusion->distribute($bricks, new PartProgress($progress, 0.15, 0.6));
        $usual = Median::of($noises);
        $weights = array_map(fn (float $noise) => NoiseWeight::ofPass($noise, $usual), $noises);
        $tasks = array_map(fn (int $brick) => fn (): string => $fusion->brick($bricks, $brick, $weights), array_keys($bricks->boxes));

        return self::joined(Fork::map($tasks, $fusion->processes($bricks->most), new PartProgress($progress, 0.6, 1.0), 'surface'));
    }

    /** Where the points lie, and how the space is shared out. Each pass is read twice, as blocks have no numbers before the box around all is known: 7 s of 16 M points. */
    private function bricks(Progress $progress): Bricks
    {
        $workers = $this->processes(self::BYTES_TO_ORIENT / 3.0 * max(array_map(fn (Pass $pass) => $pass->count(), $this->passes)));
        $tasks = array_map(fn (Pass $pass) => function () use ($pass): string {
            $box = BoundingBox::of($pass->placed()->positions);

            return Packed::doubles([...$box->min, ...$box->max]);
        }, $this->passes);
        $boxes = array_map(Packed::toDoubles(...), Fork::map($tasks, $workers, new PartProgress($progress, 0.0, 0.4), 'reading'));
        // As far from the points as in Volume::around().
        $least = fn (int $c): float => min(array_column($boxes, $c)) - 4.0 * $this->voxel;
        $most = fn (int $c): float => max(array_column($boxes, 3 + $c)) + 4.0 * $this->voxel;
        [$corner, $far] = [[$least(0), $least(1), $least(2)], [$most(0), $most(1), $most(2)]];
        $longest = max($far[0] - $corner[0], $far[1] - $corner[1], $far[2] - $corner[2]);
        if ($longest > Bricks::MOST_BLOCKS * 8.0 * $this->voxel) {
            throw UnsuitableInput::because(sprintf('The points lie up to %.0f m apart: too far for a voxel of %.3g mm. Remove strays first, or choose a larger voxel.', $longest / 1000.0, $this->voxel));
        }
        $blocks = Bricks::blocks($corner, $far, $this->voxel);
        $tasks = array_map(fn (Pass $pass) => function () use ($pass, $blocks): string {
            $counts = Bricks::counted($pass->placed()->positions, $blocks);

            return Packed::longs(array_keys($counts)).Packed::longs(array_values($counts));
        }, $this->passes);
        $counts = [];
        foreach (Fork::map($tasks, $workers, new PartProgress($progress, 0.4, 1.0), 'reading') as $bytes) {
            [$names, $numbers] = array_chunk(Packed::toLongs($bytes), max(1, intdiv(strlen($bytes), 16)));
            foreach ($names as $k => $name) {
                $counts[$name] = ($counts[$name] ?? 0) + $numbers[$k];
            }
        }
        if ($longest >= MergedPasses::WIDE * $this->reach) {
            $counts = Bricks::withoutLone($counts, $blocks, MergedPasses::FEWEST) ?: $counts;
        }
        $room = 1e6 * $this->budgetMb / Cores::count() - self::BYTES_OF_PROCESS;

        return Bricks::of($counts, $blocks, $corner, $this->voxel, self::BYTES_A_POINT, self::BYTES_A_BLOCK, max(0.2 * self::BYTES_OF_PROCESS, $room));
    }

    /**
     * Finds the normals of each pass and writes its points to the bricks that need them.
     *
     * @return list<float> the noise of each pass, see OrientedCloud::each()
     */
    private function distribute(Bricks $bricks, Progress $progress): array
    {
        $tasks = array_map(fn (int $k) => fn (): string => Packed::doubles([$this->distributePass($bricks, $k)]), array_keys($this->passes));
        $workers = $this->processes(self::BYTES_TO_ORIENT * max(array_map(fn (Pass $pass) => $pass->keptCount(), $this->passes)));

        return array_map(fn (string $bytes) => Packed::toDoubles($bytes)[0], Fork::map($tasks, $workers, $progress, 'normals'));
    }

    /** @return float the noise of the pass */
    private function distributePass(Bricks $bricks, int $k): float
    {
        $oriented = OrientedCloud::of($this->passes[$k]->placed());
        $cloud = $oriented['cloud'];
        $quality = MergedPasses::quality($cloud, 1.0);
        $flat = MergedPasses::flatness($oriented['bend']);
        $noise = Median::of(array_values($oriented['across']));
        unset($oriented);
        foreach ($bricks->shared($cloud->positions) as $brick => $points) {
            $p = $n = $q = $f = [];
            foreach ($points as $i) {
                $o = 3 * $i;
                $p[] = $cloud->positions[$o];
                $p[] = $cloud->positions[$o + 1];
                $p[] = $cloud->positions[$o + 2];
                $n[] = $cloud->normals[$o];
                $n[] = $cloud->normals[$o + 1];
                $n[] = $cloud->normals[$o + 2];
                $q[] = $quality[$i];
                $f[] = $flat[$i] * $quality[$i];
            }
            $this->scratch->put("$brick-$k", Packed::doubles($p).Packed::singles($n).Packed::singles($q).Packed::singles($f));
        }

        return $noise;
    }

    /**
     * The surface that a brick owns, as bytes: how many vertices; their names, what is known of them and their places; then the names of the corners of its quads.
     *
     * @param  list<float>  $weights  of the passes
     */
    private function brick(Bricks $bricks, int $brick, array $weights): string
    {
        $p = $n = $q = $f = $counts = [];
        foreach ($weights as $k => $weight) {
            $bytes = $this->scratch->has("$brick-$k") ? $this->scratch->get("$brick-$k") : '';
            $many = intdiv(strlen($bytes), self::RECORD);
            $counts[] = $many;
            foreach (Packed::toDoubles(substr($bytes, 0, 24 * $many)) as $value) {
                $p[] = $value;
            }
            foreach (Packed::toSingles(substr($bytes, 24 * $many, 12 * $many)) as $value) {
                $n[] = $value;
            }
            foreach (Packed::toSingles(substr($bytes, 36 * $many, 4 * $many)) as $value) {
                $q[] = $weight * $value;
            }
            foreach (Packed::toSingles(substr($bytes, 40 * $many)) as $value) {
                $f[] = $weight * $value;
            }
        }
        unset($bytes);
        $volume = $bricks->volume($brick);
        $bends = Splat::bends($volume, $p, $n);
        [$places, $normals, $groups, $bits, $ends] = Splat::gathered($volume, $p, $n, $q, $counts);
        unset($q);
        Splat::allocate($volume, $places, $this->reach);
        $volume->fill(...Splat::slab($volume, $places, $normals, Splat::bends($volume, $places, $normals), $groups, $bits, $ends, $this->reach, Fuse::LEAST_WEIGHT, 0, $volume->bx - 1));
        unset($places, $normals, $groups, $bits);
        $surface = DualSurface::extract($volume);
        unset($volume);
        [$names, $isOwn] = $bricks->names($surface['cells'], $brick);
        $own = $positions = $cells = $support = [];
        foreach ($isOwn as $v => $mine) {
            if ($mine) {
                $own[] = $names[$v];
                $support[] = $surface['support'][$v];
                for ($o = 3 * $v, $e = $o + 3; $o < $e; $o++) {
                    $positions[] = $surface['positions'][$o];
                    $cells[] = $surface['cells'][$o];
                }
            }
        }
        $quads = [];
        for ($o = 0, $e = count($surface['quads']); $o < $e; $o += 4) {
            // A quad belongs to the cell that its first corner is in.
            if ($isOwn[$surface['quads'][$o]]) {
                $quads[] = $names[$surface['quads'][$o]];
                $quads[] = $names[$surface['quads'][$o + 1]];
                $quads[] = $names[$surface['quads'][$o + 2]];
                $quads[] = $names[$surface['quads'][$o + 3]];
            }
        }
        unset($surface, $names, $isOwn);
        $grid = Sharpen::grid($p, $this->voxel);
        unset($p);
        [$n, $f, $bends] = Sharpen::inSlots($grid, $n, $f, $bends);
        $sharp = $positions;
        foreach (Sharpen::project($sharp, $cells, $this->voxel, $grid, $n, $f, $bends, $bricks->corner) as $v => $word) {
            $support[$v] |= $word;
        }
        foreach ($this->share > 0.0 ? $sharp : [] as $i => $x) {
            $positions[$i] += $this->share * ($x - $positions[$i]);
        }

        return pack('P', count($own)).Packed::longs($own).Packed::longs($support).Packed::doubles($positions).Packed::longs($quads);
    }

    /**
     * One surface of the bricks' parts, its vertices and quads in the order of their names: the same however space was shared out.
     *
     * @param  list<string>  $parts
     * @return array{positions: list<float>, quads: list<int>, support: list<int>}
     */
    private static function joined(array $parts): array
    {
        $names = [];
        foreach ($parts as $bytes) {
            foreach (Packed::toLongs(substr($bytes, 8, 8 * self::vertices($bytes))) as $name) {
                $names[] = $name;
            }
        }
        sort($names);
        $index = array_flip($names);
        $support = array_fill(0, count($names), 0);
        $positions = array_fill(0, 3 * count($names), 0.0);
        unset($names);
        $corners = $first = [];
        foreach ($parts as $bytes) {
            $many = self::vertices($bytes);
            $words = Packed::toLongs(substr($bytes, 8 + 8 * $many, 8 * $many));
            $places = Packed::toDoubles(substr($bytes, 8 + 16 * $many, 24 * $many));
            foreach (Packed::toLongs(substr($bytes, 8, 8 * $many)) as $k => $name) {
                $v = $index[$name];
                $support[$v] = $words[$k];
                $positions[3 * $v] = $places[3 * $k];
                $positions[3 * $v + 1] = $places[3 * $k + 1];
                $positions[3 * $v + 2] = $places[3 * $k + 2];
            }
            $quads = Packed::toLongs(substr($bytes, 8 + 40 * $many));
            for ($o = 0, $e = count($quads); $o < $e; $o += 4) {
                // A corner that the brick it lies in does not have: see Bricks on pairings that run far. A hole of one quad, to be closed like any other.
                if (isset($index[$quads[$o]], $index[$quads[$o + 1]], $index[$quads[$o + 2]], $index[$quads[$o + 3]])) {
                    $first[] = $index[$quads[$o]];
                    $corners[] = $index[$quads[$o]];
                    $corners[] = $index[$quads[$o + 1]];
                    $corners[] = $index[$quads[$o + 2]];
                    $corners[] = $index[$quads[$o + 3]];
                }
            }
        }
        unset($index);
        asort($first);
        $quads = [];
        foreach ($first as $k => $_) {
            $quads[] = $corners[4 * $k];
            $quads[] = $corners[4 * $k + 1];
            $quads[] = $corners[4 * $k + 2];
            $quads[] = $corners[4 * $k + 3];
        }

        return ['positions' => $positions, 'quads' => $quads, 'support' => $support];
    }

    private static function vertices(string $part): int
    {
        return (unpack('P', $part) ?: [1 => 0])[1];
    }

    /** @return int processes at work at a time, so that they fit in the budget beside their parent */
    private function processes(float $bytes): int
    {
        return max(1, min(Cores::count(), (int) ((1e6 * Memory::budgetMb() - self::BYTES_OF_PROCESS) / ($bytes + self::BYTES_OF_PROCESS))));
    }
}
