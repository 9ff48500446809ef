<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Spatial\PointGrid;

/**
 * Keeps one point in each cell of a raster: the one nearest to the middle of those in the cell, or to the surface they make. Points are never moved or averaged.
 *
 * @implements Operation<ThinParameters>
 */
final class Thin implements Operation
{
    private const BITS = 21;

    public static function about(): About
    {
        return new About('thin', Stage::Gather, 'Thin out', 'Keeps one measured point in each cell. Raw points stay in the pass.', 'passes', ThinParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-6 * $workpiece->pointCount(), 50 + 1e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $spacing = $parameters->spacing ?? ThinParameters::suggestSpacing($workpiece) ?? 1.0;

        return Sieve::apply($workpiece, fn (PointCloud $cloud, float $mmPerUnit) => self::mask($cloud->positions, $spacing / $mmPerUnit, $parameters->keep === 'least-noisy' ? self::aside($cloud) : null), $progress, 'cells');
    }

    /**
     * How far each point lies from the plane of its neighbours, squared.
     *
     * @return array<int, float> empty for a handful of points
     */
    private static function aside(PointCloud $cloud): array
    {
        if ($cloud->count() < 8) {
            return [];
        }
        $grid = PointGrid::of($cloud->positions);
        $away = array_fill(0, $cloud->count(), 0.0);
        foreach ($grid->neighbourhoods(16)['off'] as $slot => $off) {
            $away[$grid->order[$slot]] = $off * $off;
        }

        return $away;
    }

    /**
     * @param  list<float>  $p
     * @param  array<int, float>|null  $away  what the point that stays has least of; its distance from the middle when null
     */
    private static function mask(array $p, float $cell, ?array $away): string
    {
        $n = intdiv(count($p), 3);
        $w = 1.0 / $cell;
        $bits = (1 << self::BITS) - 1;
        $cells = [];
        $cellOf = array_fill(0, $n, 0);
        $many = $sx = $sy = $sz = [];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $key = (((int) floor($p[$o] * $w) & $bits) << self::BITS | ((int) floor($p[$o + 1] * $w) & $bits)) << self::BITS | ((int) floor($p[$o + 2] * $w) & $bits);
            $c = $cells[$key] ?? -1;
            if ($c < 0) {
                $c = $cells[$key] = count($many);
                $many[] = 0;
                $sx[] = $sy[] = $sz[] = 0.0;
            }
            $cellOf[$i] = $c;
            $many[$c]++;
            $sx[$c] += $p[$o];
            $sy[$c] += $p[$o + 1];
            $sz[$c] += $p[$o + 2];
        }
        $nearest = array_fill(0, count($many), INF);
        $keep = array_fill(0, count($many), 0);
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $c = $cellOf[$i];
            $f = 1.0 / $many[$c];
            $dx = $p[$o] - $sx[$c] * $f;
            $dy = $p[$o + 1] - $sy[$c] * $f;
            $dz = $p[$o + 2] - $sz[$c] * $f;
            $d = $away[$i] ?? $dx * $dx + $dy * $dy + $dz * $dz;
            if ($d < $nearest[$c]) {
                $nearest[$c] = $d;
                $keep[$c] = $i;
            }
        }
        $mask = str_repeat("\0", $n);
        foreach ($keep as $i) {
            $mask[$i] = "\1";
        }

        return $n === 0 ? '' : $mask;
    }
}
