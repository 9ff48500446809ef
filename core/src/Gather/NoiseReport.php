<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\IncidenceAngle;
use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\DoubleSkins;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\ShadeMap;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * How noisy each pass is, and in a sentence whether removing points would help. Changes nothing.
 *
 * Noise is the RMS distance of neighbours from the plane through them (median over the points inside the surface): along the normal,
 * not along the ray. Curvature adds to it what the surface bends over some three spacings.
 *
 * @implements Operation<NoiseReportParameters>
 *
 * @phpstan-import-type Skin from DoubleSkins
 *
 * @phpstan-type Line array{pass: string, points: int, spacingMm: float, noiseMm: float, outliers: float, off: float, isolated: float, grazing: float|null, empty: float|null}
 *
 * Shares are of the points: outliers what removing would take, off those of them that float over the surface or between two (the rest is rim); empty is of
 * the rays of a structured pass.
 */
final class NoiseReport implements Operation
{
    /** Distance of a point from its neighbours, in usual ones, from which it stands alone. */
    private const ISOLATED = 8.0;

    /** The centre of its neighbours lies so far aside, in spacings, for a point at a rim (as in registering). */
    private const RIM_LEAN = 0.35;

    /** An outlier whose neighbours all lie to one side floats over the surface; at a rim they lie around half of it. */
    private const STRAY_LEAN = 0.9;

    /** An outlier whose neighbours fill space, not a surface, flies between two of them. */
    private const STRAY_BEND = 0.15;

    /** Points looked at for double skins, at most: more show no more. */
    private const SKIN_POINTS = 600_000;

    /** The map of spacing ends where points lie 2 to this times farther apart than the median. */
    private const OCTAVES = 3.0;

    /** Where the map of noise ends, in noises of the pass. */
    private const NOISE_SCALE = 4.0;

    /** Share of points off the surface from which removing them changes a fused surface. */
    private const WORTH_IT = 0.001;

    public static function about(): About
    {
        return new About('noise-report', Stage::Gather, 'Noise report', 'Measures the noise of each pass and says whether removing points would help. Changes nothing.', 'passes', NoiseReportParameters::class, looksOnly: true);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1.5e-5 * $workpiece->pointCount(), 50 + 2e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $clouds = Sieve::clouds($workpiece->withBodies([]));
        $every = max(1, (int) ceil($workpiece->pointCount() / self::SKIN_POINTS));
        $tasks = array_map(fn (callable $cloud, Pass $pass) => fn (): string => self::looked($cloud(), $pass->transform, $parameters, $every), $clouds, $workpiece->passes);
        $lines = $placed = $shades = [];
        $outliers = $isolated = $off = 0.0;
        foreach (Fork::map($tasks, Cores::count(), new PartProgress($progress, 0.0, 0.75), 'noise') as $k => $bytes) {
            [$json, $spacing, $across, $positions, $normals] = self::parts($bytes);
            /** @var Line $line */
            $line = json_decode($json, true, 8, JSON_THROW_ON_ERROR);
            $lines[] = ['pass' => $workpiece->passes[$k]->name] + $line;
            $shades[] = [$spacing, $across];
            $placed[] = PointCloud::fromFlat(Packed::toSingles($positions), Packed::toSingles($normals));
            $outliers += $line['outliers'] * $line['points'];
            $isolated += $line['isolated'] * $line['points'];
            $off += $line['off'] * $line['points'];
        }
        $points = max(1, array_sum(array_column($lines, 'points')));
        $noise = Median::of(array_column($lines, 'noiseMm'));
        $progress->advance('double skins', 0.75);
        $skins = DoubleSkins::of($placed, array_column($lines, 'pass'), Median::of(array_column($lines, 'spacingMm')) * sqrt($every), $noise);
        $progress->advance('double skins', 1.0);

        return new Result(
            $workpiece, 'noise '.Format::mm($noise), [],
            ['noiseMm' => round($noise, 5), 'outliers' => round($outliers / $points, 5), 'off' => round($off / $points, 5), 'isolated' => round($isolated / $points, 5), 'passes' => $lines, 'doubleSkins' => $skins],
            [...self::advice($lines, $noise, $outliers / $points, $off / $points), ...self::aboutSkins($skins)], maps: self::maps($workpiece, $shades, $lines),
        );
    }

    /**
     * All that is found out about one pass, as bytes for another process: lengths, then the line as JSON, shades of spacing and of noise a
     * kept point, places and normals of one point in every `every` in project coordinates.
     */
    private static function looked(PointCloud $cloud, RigidTransform $stands, NoiseReportParameters $parameters, int $every): string
    {
        $n = $cloud->count();
        $parts = array_fill(0, 5, '');
        $line = ['points' => $n, 'spacingMm' => 0.0, 'noiseMm' => 0.0, 'outliers' => 0.0, 'off' => 0.0, 'isolated' => 0.0, 'grazing' => null, 'empty' => $cloud->raster === null ? null : round($cloud->raster->empty(), 4)];
        $parts[1] = $parts[2] = str_repeat("\0", $n);
        if ($n > $parameters->neighbours) {
            $near = OrientedCloud::of($cloud, $parameters->neighbours + 1);
            $line = self::line($near, $parameters) + $line;
            $spacing = $across = array_fill(0, $n, 0.0);
            $usual = Median::of(array_values($near['apart']));
            foreach ($near['order'] as $slot => $i) {
                $spacing[$i] = log($near['apart'][$slot] / $usual, 2);
                $across[$i] = $near['across'][$slot];
            }
            $parts[1] = ShadeMap::shades($spacing, 0.0, self::OCTAVES);
            $parts[2] = ShadeMap::shades($across, 0.0, self::NOISE_SCALE * $line['noiseMm']);
            [$parts[3], $parts[4]] = self::sample($near['cloud']->transformed($stands), $every);
        }
        $parts[0] = json_encode($line, JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION);

        return pack('V5', ...array_map(strlen(...), $parts)).implode('', $parts);
    }

    /** @return array{string, string, string, string, string} */
    private static function parts(string $bytes): array
    {
        $parts = [];
        $at = 20;
        foreach (unpack('V5', $bytes) ?: [] as $length) {
            $parts[] = substr($bytes, $at, $length);
            $at += $length;
        }

        /** @var array{string, string, string, string, string} $parts */
        return $parts;
    }

    /** @return array{string, string} */
    private static function sample(PointCloud $cloud, int $every): array
    {
        $positions = $normals = [];
        for ($o = 0, $e = count($cloud->positions); $o < $e; $o += 3 * $every) {
            array_push($positions, $cloud->positions[$o], $cloud->positions[$o + 1], $cloud->positions[$o + 2]);
            array_push($normals, $cloud->normals[$o], $cloud->normals[$o + 1], $cloud->normals[$o + 2]);
        }

        return [Packed::singles($positions), Packed::singles($normals)];
    }

    /**
     * @param  array{cloud: PointCloud, spacing: float, order: array<int, int>, lean: array<int, float>, apart: array<int, float>, bend: array<int, float>, across: array<int, float>}  $near
     * @return array{spacingMm: float, noiseMm: float, outliers: float, off: float, isolated: float, grazing: float|null}
     */
    private static function line(array $near, NoiseReportParameters $parameters): array
    {
        $n = count($near['order']);
        $limit = RemoveOutliers::limit(array_values($near['apart']), $parameters->deviations);
        $alone = self::ISOLATED * Median::of(array_values($near['apart']));
        $outliers = $isolated = $off = 0;
        $across = [];
        foreach ($near['apart'] as $slot => $spacing) {
            $outliers += $spacing > $limit ? 1 : 0;
            $isolated += $spacing > $alone ? 1 : 0;
            $off += $spacing > $alone || $spacing > $limit && ($near['lean'][$slot] > self::STRAY_LEAN || ($near['lean'][$slot] < self::RIM_LEAN && $near['bend'][$slot] > self::STRAY_BEND)) ? 1 : 0;
            if ($spacing <= $limit && $near['lean'][$slot] < self::RIM_LEAN) {
                $across[] = $near['across'][$slot];
            }
        }
        $grazing = null;
        $sensor = $near['cloud']->sensorOrigin;
        if ($sensor !== null) {
            $least = cos(deg2rad($parameters->grazing));
            $grazing = count(array_filter(IncidenceAngle::cosines($near['cloud']->positions, $near['cloud']->normals, $sensor), fn (float $cosine) => $cosine < $least)) / $n;
        }

        return [
            'spacingMm' => round($near['spacing'], 4), 'noiseMm' => $across === [] ? 0.0 : round(Median::of($across), 5),
            'outliers' => round($outliers / $n, 5), 'off' => round($off / $n, 5), 'isolated' => round($isolated / $n, 6), 'grazing' => $grazing === null ? null : round($grazing, 4),
        ];
    }

    /**
     * @param  list<array{string, string}>  $shades  a kept point
     * @param  list<Line>  $lines
     * @return list<ShadeMap>
     */
    private static function maps(Workpiece $workpiece, array $shades, array $lines): array
    {
        $maps = [];
        foreach ($workpiece->passes as $k => $pass) {
            $spacing = $lines[$k]['spacingMm'];
            foreach ([['Spacing', $shades[$k][0], $spacing, $spacing * 2 ** self::OCTAVES], ['Noise', $shades[$k][1], 0.0, self::NOISE_SCALE * $lines[$k]['noiseMm']]] as [$label, $kept, $from, $to]) {
                $maps[] = ShadeMap::ofBytes($pass->id, $label, 'mm', $pass->spread($kept), $from, $to);
            }
        }

        return $maps;
    }

    /**
     * @param  list<Skin>  $skins
     * @return list<string>
     */
    private static function aboutSkins(array $skins): array
    {
        if ($skins === []) {
            return [];
        }
        $within = count(array_filter($skins, fn (array $one) => $one['within']));
        $one = $skins[0];

        return [sprintf(
            'Double skins: one wall lies in two layers at %d %s, up to %s apart. %s', count($skins), count($skins) === 1 ? 'place' : 'places', Format::mm(max(array_column($skins, 'gapMm'))),
            $within > 0 ? "Inside {$one['passes'][0]} already: the part moved during the pass; scan it again." : 'They lie between passes: register them.',
        )];
    }

    /**
     * @param  list<Line>  $lines
     * @return list<string>
     */
    private static function advice(array $lines, float $noise, float $outliers, float $off): array
    {
        $notes = [];
        if ($off < self::WORTH_IT) {
            $notes[] = sprintf('Clean: only %.2f %% of the points stand off the surface. Removing outliers would take %.1f %%, nearly all of it rim; leave them.', 100 * $off, 100 * $outliers);
        } else {
            $notes[] = sprintf('%.2f %% of the points stand off the surface: removing outliers would help. It would take %.1f %% at the present setting, rims included.', 100 * $off, 100 * $outliers);
        }
        foreach ($lines as $line) {
            if ($line['noiseMm'] > 2.0 * $noise && $noise > 0.0) {
                $notes[] = sprintf('%s is %.1f times as noisy as the others (%s): scan that side again, or leave it out if others saw it.', $line['pass'], $line['noiseMm'] / $noise, Format::mm($line['noiseMm']));
            }
            if (($line['empty'] ?? 0.0) > 0.3) {
                $notes[] = sprintf('%s: nothing came back on %d %% of the rays. Where that is not the sky, the surface shines, lets light through or is dark: spray it and scan again.', $line['pass'], round(100 * $line['empty']));
            }
            if (($line['grazing'] ?? 0.0) > 0.25) {
                $notes[] = sprintf('%s saw %d %% of its points nearly along the surface: remove grazing points where other passes saw the same place.', $line['pass'], round(100 * $line['grazing']));
            }
        }

        return $notes;
    }
}
