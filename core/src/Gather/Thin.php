<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Keeps one point in each cell of a raster, or as many as leave none closer to another than a density allows. Of several, the one in the middle
 * stays, or the one nearest to the surface they make. Points are never moved or averaged.
 *
 * @implements Operation<ThinParameters>
 */
final class Thin implements Operation
{
    /** The share of a plane that equal discs thrown at random cover when no further one finds room (Feder 1980). */
    private const JAMMED = 0.547;

    public static function about(): About
    {
        return new About('thin', Stage::Gather, 'Thin out', 'Keeps one measured point in each cell, or thins only where points lie denser than wished. Raw points stay in the pass.', 'passes', ThinParameters::class, avoid: 'Not to make Fuse faster by a little: every point that goes makes the surface noisier.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-6 * $workpiece->pointCount(), 50 + 1e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $spacing = $parameters->spacing ?? ThinParameters::suggestSpacing($workpiece) ?? 1.0;
        $aside = fn (PointCloud $cloud): ?array => $parameters->keep === 'least-noisy' ? self::aside($cloud) : null;
        $rule = $parameters->density === null
            ? fn (PointCloud $cloud): string => self::oneACell($cloud->positions, $spacing, $aside($cloud))
            : fn (PointCloud $cloud): string => self::apart($cloud->positions, self::distance($parameters->density), $aside($cloud));

        return Sieve::apply($workpiece, $rule, $progress, 'cells');
    }

    /** How far apart, in mm, points thrown at random must be for a square centimetre to hold that number at most. */
    public static function distance(float $perSquareCentimetre): float
    {
        return sqrt(4.0 * self::JAMMED / (M_PI * $perSquareCentimetre / 100.0));
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
    private static function oneACell(array $p, float $cell, ?array $away): string
    {
        $n = intdiv(count($p), 3);
        if ($n === 0) {
            return '';
        }
        $names = LatticeKeys::of($p, $cell);
        $cells = [];
        $cellOf = array_fill(0, $n, 0);
        $many = $sx = $sy = $sz = [];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $key = $names->at($p[$o], $p[$o + 1], $p[$o + 2]);
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

        return $mask;
    }

    /**
     * No kept point is nearer to another than the distance, and none that was dropped would have had room. Taken at random, so that the rows of
     * a scan leave no stripes, or the least noisy first.
     *
     * @param  list<float>  $p
     * @param  array<int, float>|null  $away
     */
    private static function apart(array $p, float $distance, ?array $away): string
    {
        $n = intdiv(count($p), 3);
        if ($n === 0) {
            return '';
        }
        if ($away === null) {
            $turn = (new Randomizer(new Xoshiro256StarStar(1902)))->shuffleArray(range(0, $n - 1));
        } else {
            asort($away);
            $turn = array_keys($away);
        }
        $names = LatticeKeys::of($p, $distance);
        $around = [];
        foreach ([-1, 0, 1] as $i) {
            foreach ([-1, 0, 1] as $j) {
                array_push($around, $i * $names->layer + $j * $names->row - 1, $i * $names->layer + $j * $names->row, $i * $names->layer + $j * $names->row + 1);
            }
        }
        $limit = $distance * $distance;
        $mask = str_repeat("\0", $n);
        $first = [];
        $next = array_fill(0, $n, -1);
        foreach ($turn as $i) {
            $x = $p[3 * $i];
            $y = $p[3 * $i + 1];
            $z = $p[3 * $i + 2];
            $name = $names->at($x, $y, $z);
            foreach ($around as $step) {
                for ($k = $first[$name + $step] ?? -1; $k >= 0; $k = $next[$k]) {
                    $dx = $p[3 * $k] - $x;
                    $dy = $p[3 * $k + 1] - $y;
                    $dz = $p[3 * $k + 2] - $z;
                    if ($dx * $dx + $dy * $dy + $dz * $dz < $limit) {
                        continue 3;
                    }
                }
            }
            $mask[$i] = "\1";
            $next[$i] = $first[$name] ?? -1;
            $first[$name] = $i;
        }

        return $mask;
    }
}
