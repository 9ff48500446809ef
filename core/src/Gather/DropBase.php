<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Finds the plane the object stands on in each pass and removes it.
 *
 * Source    Fischler & Bolles 1981 (random sample consensus), refined by least squares.
 * Departs   a plane counts as support only when nearly all other points lie on the sensor's side of it: the object's own flat
 *           faces have the rest of the object behind them.
 *
 * @implements Operation<DropBaseParameters>
 */
final class DropBase implements Operation
{
    private const SAMPLE = 3000;

    public static function about(): About
    {
        return new About('drop-base', Stage::Gather, 'Drop the base', 'Finds the table under the part in each pass and takes it away.', 'passes', DropBaseParameters::class, avoid: 'Not where the part is as flat as the table, or where the table is wanted as a datum.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 0.15 * count($workpiece->passes) + 1e-6 * $workpiece->pointCount(), 60);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($workpiece->passes === []) {
            throw UnsuitableInput::because('There is no pass to look at; bring one in first.');
        }
        $passes = $notes = [];
        $found = 0;
        foreach ($workpiece->passes as $k => $pass) {
            $margin = $parameters->margin;
            for ($nth = 0; $nth < $parameters->planes; $nth++) {
                $cloud = $pass->keptCloud();
                $plane = self::supportPlane($cloud, $margin, 0.2, $k + 1 + 1000 * $nth);
                if ($plane === null) {
                    break;
                }
                $pass = $pass->narrowed(self::above($cloud, $plane, $margin));
                $found++;
            }
            $passes[] = $pass;
            if ($nth === 0) {
                $notes[] = "{$pass->name}: no supporting plane found; nothing removed.";
            }
            $progress->advance('planes', ($k + 1) / count($workpiece->passes));
        }
        $after = $workpiece->withPasses($passes);
        $gone = $workpiece->pointCount() - $after->pointCount();

        return new Result($after, '− '.Format::count($gone).' points', ['points' => $workpiece->pointCount()], ['points' => $after->pointCount(), 'planes' => $found], $notes);
    }

    /**
     * The plane (nx, ny, nz, d) with the object on its positive side, or null.
     *
     * @return array{float, float, float, float}|null
     */
    private static function supportPlane(PointCloud $cloud, float $margin, float $leastBand, int $seed): ?array
    {
        $n = $cloud->count();
        if ($n < 100) {
            return null;
        }
        $p = $cloud->positions;
        $sample = [];
        for ($i = 0, $step = max(1, intdiv($n, self::SAMPLE)); $i < $n; $i += $step) {
            array_push($sample, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
        }
        $m = intdiv(count($sample), 3);
        $random = new Randomizer(new Xoshiro256StarStar($seed));
        $band = max(0.25 * $margin, $leastBand);
        $best = null;
        $bestCount = 0.05 * $m;
        for ($try = 0; $try < 400; $try++) {
            $a = 3 * $random->getInt(0, $m - 1);
            $b = 3 * $random->getInt(0, $m - 1);
            $c = 3 * $random->getInt(0, $m - 1);
            $plane = self::through($sample, $a, $b, $c, $cloud->sensorOrigin);
            if ($plane === null) {
                continue;
            }
            $count = self::support($sample, $plane, $band);
            if ($count > $bestCount) {
                $bestCount = $count;
                $best = $plane;
            }
        }
        for ($round = 0; $best !== null && $round < 3; $round++) {
            $best = self::refined($sample, $best, $band, $cloud->sensorOrigin);
        }

        return $best;
    }

    /**
     * @param  list<float>  $p
     * @param  array{float, float, float}|null  $sensor
     * @return array{float, float, float, float}|null
     */
    private static function through(array $p, int $a, int $b, int $c, ?array $sensor): ?array
    {
        $ux = $p[$b] - $p[$a];
        $uy = $p[$b + 1] - $p[$a + 1];
        $uz = $p[$b + 2] - $p[$a + 2];
        $vx = $p[$c] - $p[$a];
        $vy = $p[$c + 1] - $p[$a + 1];
        $vz = $p[$c + 2] - $p[$a + 2];
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        if ($l < 1e-9) {
            return null;
        }

        return self::facing([$nx / $l, $ny / $l, $nz / $l], [$p[$a], $p[$a + 1], $p[$a + 2]], $sensor, $p);
    }

    /**
     * @param  array{float, float, float}  $n
     * @param  array{float, float, float}  $at
     * @param  array{float, float, float}|null  $sensor
     * @param  list<float>  $p
     * @return array{float, float, float, float}
     */
    private static function facing(array $n, array $at, ?array $sensor, array $p): array
    {
        $d = -($n[0] * $at[0] + $n[1] * $at[1] + $n[2] * $at[2]);
        if ($sensor !== null) {
            $side = $n[0] * $sensor[0] + $n[1] * $sensor[1] + $n[2] * $sensor[2] + $d;
        } else {
            $side = 0.0;
            for ($o = 0, $e = count($p); $o < $e; $o += 30) {
                $side += $n[0] * $p[$o] + $n[1] * $p[$o + 1] + $n[2] * $p[$o + 2] + $d;
            }
        }

        return $side < 0.0 ? [-$n[0], -$n[1], -$n[2], -$d] : [$n[0], $n[1], $n[2], $d];
    }

    /**
     * Points in the plane's band, or 0 when more than 2 % of all lie below it.
     *
     * @param  list<float>  $p
     * @param  array{float, float, float, float}  $plane
     */
    private static function support(array $p, array $plane, float $band): int
    {
        [$nx, $ny, $nz, $d] = $plane;
        $count = $below = 0;
        $allowed = 0.02 * count($p) / 3;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $s = $nx * $p[$o] + $ny * $p[$o + 1] + $nz * $p[$o + 2] + $d;
            if ($s < -2.0 * $band) {
                if (++$below > $allowed) {
                    return 0;
                }
            } elseif ($s < $band && $s > -$band) {
                $count++;
            }
        }

        return $count;
    }

    /**
     * @param  list<float>  $p
     * @param  array{float, float, float, float}  $plane
     * @param  array{float, float, float}|null  $sensor
     * @return array{float, float, float, float}
     */
    private static function refined(array $p, array $plane, float $band, ?array $sensor): array
    {
        [$nx, $ny, $nz, $d] = $plane;
        $in = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            if (abs($nx * $p[$o] + $ny * $p[$o + 1] + $nz * $p[$o + 2] + $d) < $band) {
                array_push($in, $p[$o], $p[$o + 1], $p[$o + 2]);
            }
        }
        $fit = Symmetric3::ofPoints($in);

        return self::facing($fit['vectors'][0], $fit['centre'], $sensor, $p);
    }

    /** @param  array{float, float, float, float}  $plane */
    private static function above(PointCloud $cloud, array $plane, float $margin): string
    {
        [$nx, $ny, $nz, $d] = $plane;
        $p = $cloud->positions;
        $mask = str_repeat("\1", $cloud->count());
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            if ($nx * $p[$o] + $ny * $p[$o + 1] + $nz * $p[$o + 2] + $d < $margin) {
                $mask[$i] = "\0";
            }
        }

        return $mask;
    }
}
