<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\IncidenceAngle;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Takes away points that the scanner saw along the surface, where noise is largest. Passes that do not say where the scanner stood are left alone.
 *
 * @implements Operation<RemoveGrazingParameters>
 */
final class RemoveGrazing implements Operation
{
    public static function about(): About
    {
        return new About('remove-grazing', Stage::Gather, 'Remove grazing points', 'Takes away points that the scanner saw nearly along the surface, where noise is largest. Raw points stay in the pass.', 'passes', RemoveGrazingParameters::class, avoid: 'Not where only grazing looks reach, as in deep slots: what goes leaves a hole.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-5 * $workpiece->pointCount(), 50 + 2e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $notes = [];
        foreach ($workpiece->passes as $pass) {
            if (! $pass->source->hasSensor) {
                $notes[] = "{$pass->name} does not say where the scanner stood; nothing removed.";
            }
        }
        if ($workpiece->passes !== [] && count($notes) === count($workpiece->passes)) {
            throw UnsuitableInput::because('No pass says where the scanner stood, so that no angle is known. Structured formats such as E57 and PTX say it.');
        }
        $least = cos(deg2rad($parameters->angle));

        return Sieve::apply($workpiece, fn (PointCloud $cloud) => self::mask($cloud, $least), $progress, 'angles', $notes);
    }

    private static function mask(PointCloud $cloud, float $least): string
    {
        $mask = str_repeat("\1", $cloud->count());
        if ($cloud->sensorOrigin !== null && $cloud->count() > 3) {
            $grid = PointGrid::of($cloud->positions);
            foreach (IncidenceAngle::cosines($grid->sorted, $grid->neighbourhoods(16)['normals'], $cloud->sensorOrigin) as $slot => $cosine) {
                if ($cosine < $least) {
                    $mask[$grid->order[$slot]] = "\0";
                }
            }
        }

        return $mask;
    }
}
