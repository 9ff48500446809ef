<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Linear\Median;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Spatial\CellNames;

/** The kept points of all passes in project coordinates, with normals, and how much each has to say. */
final readonly class MergedPasses
{
    /** So many times the usual bend of a pass halves the weight of a point. */
    private const BENT = 2.0;

    /**
     * @param  list<float>  $positions  flat xyz, pass after pass
     * @param  list<float>  $normals  unit, outward
     * @param  list<float>  $quality  a point, 0.02 to 1: by the angle between normal and ray
     * @param  list<float>  $flat  a point: quality, less where the surface bends more than is usual
     * @param  list<int>  $counts  points of each pass
     */
    private function __construct(public array $positions, public array $normals, public array $quality, public array $flat, public array $counts)
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
        $placed = array_values(array_filter(array_map(fn (Pass $pass) => $pass->placed(), $passes), fn (PointCloud $cloud) => $cloud->count() > 0));
        if ($placed === []) {
            throw UnsuitableInput::because('All points of the passes are cut away; bring some back first.');
        }
        $positions = $normals = $quality = $flat = $counts = [];
        foreach (Prepare::oriented($placed, $progress) as ['cloud' => $cloud, 'bend' => $bend]) {
            $q = self::quality($cloud);
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

    /** The area of the object, mm2, from the cells of a fiftieth of its size that points occupy. */
    public static function area(Workpiece $workpiece): float
    {
        $some = [];
        foreach ($workpiece->passes as $pass) {
            $p = $pass->placed()->positions;
            for ($o = 0, $e = count($p), $step = 3 * (intdiv($e, 60000) + 1); $o < $e; $o += $step) {
                array_push($some, $p[$o], $p[$o + 1], $p[$o + 2]);
            }
        }
        if ($some === []) {
            return 0.0;
        }
        $cell = max(1e-6, BoundingBox::of($some)->longestSide() / 50.0);
        $names = CellNames::of($some, $cell);
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
     * Weight a point: the cosine between normal and ray, squared, near nothing for grazing points; 1 where the sensor is not known.
     *
     * @return list<float>
     */
    private static function quality(PointCloud $cloud): array
    {
        $n = $cloud->count();
        if ($cloud->sensorOrigin === null) {
            return array_fill(0, $n, 1.0);
        }
        [$sx, $sy, $sz] = $cloud->sensorOrigin;
        $p = $cloud->positions;
        $d = $cloud->normals;
        $quality = [];
        for ($o = 0, $e = 3 * $n; $o < $e; $o += 3) {
            $x = $sx - $p[$o];
            $y = $sy - $p[$o + 1];
            $z = $sz - $p[$o + 2];
            $l = $x * $x + $y * $y + $z * $z;
            $c = $d[$o] * $x + $d[$o + 1] * $y + $d[$o + 2] * $z;
            $quality[] = $c > 0.0 && $l > 0.0 ? max(0.02, $c * $c / $l) : 0.02;
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
    private static function flatness(array $bend): array
    {
        $bend = array_values($bend);
        $usual = max(1e-9, self::BENT * Median::of($bend));

        return array_map(fn (float $b) => 1.0 / (1.0 + ($b / $usual) ** 2), $bend);
    }
}
