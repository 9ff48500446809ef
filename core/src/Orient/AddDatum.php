<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Spatial\TriangleBvh;

/**
 * Makes a plane, a cylinder or a point: from picked points, or from the smooth area around a place.
 *
 * @implements Operation<AddDatumParameters>
 */
final class AddDatum implements Operation
{
    public static function about(): About
    {
        return new About('add-datum', Stage::Orient, 'Add datum', 'Makes a reference plane, cylinder or point on the part.', 'bodies', AddDatumParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.3 + 3e-6 * $workpiece->faceCount(), 40 + 3e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        foreach ($workpiece->datums as $datum) {
            if ($datum->name === $parameters->name) {
                throw UnsuitableInput::because("There is a datum named \"{$parameters->name}\" already; choose another name.");
            }
        }
        $datum = $parameters->points !== null
            ? FitDatum::fromPoints(array_map(fn (array $point) => array_map(floatval(...), $point), $parameters->points), $parameters->kind, $parameters->name)
            : $this->atSeed($workpiece, $parameters);
        $progress->advance('fitted', 1.0);
        $headline = match ($datum->kind) {
            'cylinder' => 'ø '.Format::mm(2.0 * $datum->radius).' ± '.Format::mm($datum->rms),
            'plane' => '± '.Format::mm($datum->rms),
            default => vsprintf('%.2f, %.2f, %.2f', $datum->origin),
        };

        return new Result($workpiece->withDatums([...$workpiece->datums, $datum]), "{$datum->name}: $headline", [], ['datum' => $datum->toArray()]);
    }

    private function atSeed(Workpiece $workpiece, AddDatumParameters $parameters): Datum
    {
        $seed = array_map(floatval(...), $parameters->seed ?? []);
        if ($parameters->kind === 'point') {
            return FitDatum::fromPoints([[$seed[0], $seed[1], $seed[2]]], 'point', $parameters->name);
        }
        $best = [INF, null, 0];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placed();
            assert($mesh instanceof TriangleMesh);
            $face = $distanceSq = [];
            TriangleBvh::of($mesh->positions, $mesh->faces)->closest($seed, $face, $distanceSq);
            if ($distanceSq[0] < $best[0]) {
                $best = [$distanceSq[0], $body, $face[0]];
            }
        }
        [, $body, $face] = $best;
        if ($body === null) {
            throw UnsuitableInput::because('There is no mesh to spread over; fuse the passes first, or pick points.');
        }
        $blob = OpenBlob::bytes(Blob::encode($body->geometry));
        $placement = Transform::shift(...$blob->head['origin'])->then($body->transform);
        $fit = FitDatum::spread($blob, $placement, $face, $parameters->kind, $parameters->angle, $parameters->name)['datum'];

        return Datum::fromArray([...$fit->toArray(), 'bodyId' => $body->id]);
    }
}
