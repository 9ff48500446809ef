<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Emberstone\Core\Rigs\MarkerDots;
use Emberstone\Core\Rigs\Rig;
use Emberstone\Core\Rigs\Surface;

/**
 * Scans a demo part with a simulated scanner and adds the passes, placed as the rig believes them to be.
 *
 * @implements Operation<SimulateParameters>
 */
final class Simulate implements MakesNew, Operation
{
    /** Seconds of one core for a pixel of a dense capture. */
    private const SECONDS_A_PIXEL = 2e-5;

    public static function about(): About
    {
        return new About('simulate', Stage::Gather, 'Simulate a scan', 'Scans a part of the demo world with a simulated scanner, so that a way of working can be tried before the real one.', 'nothing', SimulateParameters::class, avoid: 'Not as a stand-in for the real part: it is for trying.');
    }

    /** @return list<string>|null */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return null;
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $rig = self::rig($parameters);

        $pixels = $parameters->density === null ? 0 : array_product(Rigs::pixels(Rigs::part($parameters->part), $parameters->density / 100.0));
        // A capture of the rig's own 100,000 pixels or so; of more by their number (12 of 0.72 M, with storing them, took 139 s on two cores, 12 of 2.5 M without it 168).
        $each = $parameters->rig === 'tripod' ? 8.0 : max(1.5, self::SECONDS_A_PIXEL * $pixels);

        return new Estimate($each * $rig->passes() / Cores::count() + ($parameters->dots ? 3.0 : 0.0), 250 + 1.5e-4 * $pixels);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $rig = self::rig($parameters);
        $part = Rigs::part($parameters->part);
        $dots = $parameters->dots ? new MarkerDots($parameters->dotRadius, $parameters->dotSpacing) : null;
        // Found once here, not once in every process below.
        $placed = $dots?->places($part);
        $rig = self::rig($parameters, $dots);
        $tasks = [];
        for ($k = 0; $k < $rig->passes(); $k++) {
            $tasks[] = function () use ($rig, $part, $k, $parameters): string {
                $cloud = $rig->capture($part, $k, $parameters->seed)['cloud'];

                return pack('V', $cloud->count()).Packed::doubles([...$cloud->sensorOrigin ?? [0.0, 0.0, 0.0]]).Packed::doubles($cloud->positions).Packed::ints($cloud->colours);
            };
        }
        $passes = $workpiece->passes;
        $points = 0;
        foreach (Fork::map($tasks, Cores::count(), $progress, 'scanning') as $k => $bytes) {
            $count = (unpack('V', $bytes) ?: [1 => 0])[1];
            [$x, $y, $z] = Packed::toDoubles(substr($bytes, 4, 24));
            $cloud = PointCloud::fromFlat(Packed::toDoubles(substr($bytes, 28, 24 * $count)), [], Packed::toInts(substr($bytes, 28 + 24 * $count)), [$x, $y, $z]);
            $points += $count;
            $passes[] = new Pass("simulated-$k", sprintf('%s %d', str_replace('-', ' ', ucfirst($parameters->part)), $k + 1), $cloud, RigidTransform::identity());
        }

        return new Result(
            $workpiece->withPasses($passes), $rig->passes().' passes · '.Format::count($points).' points', [],
            ['passes' => $rig->passes(), 'points' => $points, 'noiseMm' => $rig->noiseMm()],
            [Rigs::PARTS[$parameters->part].'.', Rigs::RIGS[$parameters->rig].'.', ...($placed === null ? [] : [count($placed).' dots are on the part.'])],
        );
    }

    private static function rig(SimulateParameters $parameters, ?MarkerDots $dots = null): Rig
    {
        if (($parameters->part === 'press-hall') !== ($parameters->rig === 'tripod')) {
            throw InvalidParameter::of('rig', $parameters->rig === 'tripod' ? 'is tripod, which stands in a room; choose the press hall, or another rig' : 'must be tripod for the press hall: a room is scanned from inside');
        }

        return Rigs::rig($parameters->rig, $parameters->spray ? Surface::Matt : Surface::from($parameters->surface), $dots, $parameters->density === null ? null : Rigs::pixels(Rigs::part($parameters->part), $parameters->density / 100.0));
    }
}
