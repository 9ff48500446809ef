<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\CarriedError;
use Emberstone\Core\Datums\ClickedPlace;
use Emberstone\Core\Datums\Construct;
use Emberstone\Core\Datums\FitConstraint;
use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Datums\SurfaceSeed;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes a datum: from picked points, from the smooth area around a place, from a brushed region, from other datums, or from typed numbers; or keeps a frame.
 *
 * @implements Operation<AddDatumParameters>
 */
final class AddDatum implements Operation
{
    public static function about(): About
    {
        return new About('add-datum', Stage::Orient, 'Add datum', 'Makes a reference plane, axis, round shape or point on the part, or from datums that are there.', 'bodies', AddDatumParameters::class, readsArtefacts: true, avoid: 'Not on filled surface, and not on a small patch for an axis of a long part: take the whole bore.');
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
        $notes = [];
        $datum = match (true) {
            $parameters->kind === 'frame' => self::frame($workpiece, $parameters),
            $parameters->shape !== null => self::ofShape($workpiece, $parameters->shape, $parameters->name, $notes),
            $parameters->typed !== null => self::typed($parameters, $parameters->typed),
            $parameters->construct !== null => Construct::of($parameters->construct, $workpiece->datums, $parameters->name),
            $parameters->points !== null => self::picked($workpiece, $parameters, array_map(fn (array $point) => array_map(floatval(...), $point), $parameters->points)),
            $parameters->region !== null => $this->onRegion($workpiece, $parameters, $parameters->region),
            default => $this->atSeed($workpiece, $parameters),
        };
        // A cone has its direction from its shape.
        if ($parameters->flip && $datum->hasDirection() && $datum->kind !== 'cone') {
            $datum = $datum->turnedRound();
        }
        $progress->advance('fitted', 1.0);
        $headline = match ($datum->kind) {
            'cylinder', 'sphere' => 'ø '.Format::mm(2.0 * $datum->radius).' ± '.Format::mm($datum->rms),
            'cone' => sprintf('%.2f° to each side ± ', $datum->halfAngleDeg).Format::mm($datum->rms),
            // As many picks as fix it have no error to tell.
            'plane', 'line' => match (true) {
                $datum->points > ($datum->kind === 'plane' ? 3 : 2) => '± '.Format::mm($datum->rms),
                $datum->points > 1 => "through $datum->points places",
                default => $datum->made,
            },
            'frame' => $datum->made === 'body' ? 'as its file had it' : 'as it is set now',
            default => vsprintf('%.2f, %.2f, %.2f', $datum->origin),
        };

        return new Result($workpiece->withDatums([...$workpiece->datums, $datum]), "{$datum->name}: $headline", [], ['datum' => $datum->toArray()], $notes);
    }

    /**
     * Of picked places, with what the noise of the surface under them leaves open.
     *
     * @param  non-empty-list<array{float, float, float}>  $places
     *
     * @throws UnsuitableInput when they do not make such a datum
     */
    private static function picked(Workpiece $workpiece, AddDatumParameters $parameters, array $places): Datum
    {
        $made = FitDatum::fromPoints($places, $parameters->kind, $parameters->name);
        $points = ClickedPlace::known(array_map(fn (array $place) => new Datum('', '', 'point', $place), $places), $workpiece->meshes());
        // Of places beside all surfaces, as those typed in, nothing is known but what they miss each other by.
        $isOnSurface = array_filter($points, fn (Datum $point) => $point->error === null) === [];

        return $isOnSurface ? $made->withError(CarriedError::of($made, $points, fn (array $moved) => FitDatum::fromPoints(array_column($moved, 'origin'), $parameters->kind, $parameters->name))) : $made;
    }

    /** @param  array{origin: array<int, float|int>, direction?: array<int, float|int>, diameter?: float|int, halfAngle?: float|int, size?: float|int}  $typed */
    private static function typed(AddDatumParameters $parameters, array $typed): Datum
    {
        $of = fn (array $v): array => [(float) $v[0], (float) $v[1], (float) $v[2]];
        $radius = 0.5 * ($typed['diameter'] ?? 0.0);

        return new Datum(
            $parameters->name, $parameters->name, $parameters->kind, $of($typed['origin']), isset($typed['direction']) ? Vector3::unit($of($typed['direction'])) : [0.0, 0.0, 0.0], $radius,
            (float) ($typed['size'] ?? ($parameters->kind === 'point' ? 2.0 : max(20.0, $radius))), halfAngleDeg: (float) ($typed['halfAngle'] ?? 0.0),
        );
    }

    /**
     * @param  array{find: string, nth?: int, body?: string, id?: string}  $shape
     * @param  list<string>  $notes  (changed) what else there is to know
     */
    private static function ofShape(Workpiece $workpiece, array $shape, string $name, array &$notes): Datum
    {
        if ($shape['find'] === 'found') {
            $artefact = ShapeMap::having($workpiece->artefacts, $shape['id'] ?? '', 'shape');

            return ShapeMap::datum(ShapeMap::ofArtefact($artefact)->entryOf($shape['id'] ?? ''), $name, $artefact->bodyId);
        }
        $bodies = array_values(array_filter($workpiece->meshes(), fn (Body $body) => ! isset($shape['body']) || in_array($shape['body'], [$body->id, $body->name], true)));
        $body = $bodies[0] ?? throw UnsuitableInput::because('There is no such mesh to look at; fuse the passes first, or name another body.');
        $mesh = $body->placed();
        assert($mesh instanceof TriangleMesh);
        if ($shape['find'] === 'axis') {
            ['datum' => $datum, 'share' => $share] = Revolution::axis($mesh, $name);
            $notes[] = $share === null
                ? 'Only the outline is round about this axis: the surface is off it by '.Format::mm($datum->rms).' on the average.'
                : sprintf('%d %% of the surface is round about this axis.', round(100.0 * $share));
        } else {
            $found = Symmetry::mirrors($mesh, $name);
            $nth = $shape['nth'] ?? 1;
            ['datum' => $datum, 'share' => $share] = $found[$nth - 1] ?? throw UnsuitableInput::because(count($found) === 1 ? 'Only one plane mirrors this shape; take the first.' : count($found)." planes mirror this shape; there is no number $nth.");
            $notes[] = sprintf('%d %% of the surface lies on the surface when mirrored%s.', round(100.0 * $share), count($found) > 1 ? '; this is number '.$nth.' of '.count($found).' planes that do so' : '');
        }

        return $datum->ofBody($body->id);
    }

    /** The frame that is set now, or the one in which a body came. */
    private static function frame(Workpiece $workpiece, AddDatumParameters $parameters): Datum
    {
        $named = array_values(array_filter($workpiece->bodies, fn (Body $body) => in_array($parameters->frameOf, [$body->id, $body->name], true)));
        if ($parameters->frameOf !== null && $named === []) {
            throw UnsuitableInput::because("There is no body \"{$parameters->frameOf}\" whose frame could be kept; ".($workpiece->bodies === [] ? 'bring one in first.' : 'the bodies are '.implode(', ', array_map(fn (Body $body) => $body->name, $workpiece->bodies)).'.'));
        }
        $placed = $named[0]->transform ?? RigidTransform::identity();

        return new Datum(
            $parameters->name, $parameters->name, 'frame', $placed->point([0.0, 0.0, 0.0]), $placed->direction([0.0, 0.0, 1.0]), made: $named === [] ? 'set' : 'body', bodyId: $named[0]->id ?? null,
            across: $placed->direction([1.0, 0.0, 0.0]),
        );
    }

    private static function held(Workpiece $workpiece, AddDatumParameters $parameters): ?FitConstraint
    {
        return $parameters->hold === null ? null : FitConstraint::of($parameters->hold, $workpiece->datums, $parameters->kind);
    }

    /** @param  array<int, array{target: string, ranges: list<array{int, int}>}>  $region */
    private function onRegion(Workpiece $workpiece, AddDatumParameters $parameters, array $region): Datum
    {
        $selection = new SelectionParameters($region);
        foreach ($workpiece->meshes() as $body) {
            $faces = $body->geometry instanceof TriangleMesh ? $body->geometry->faceCount() : 0;
            $ranges = $selection->ranges($body->id, $faces) ?? $selection->ranges($body->name, $faces);
            if ($ranges === null || $ranges === []) {
                continue;
            }
            $blob = OpenBlob::bytes(Blob::encode($body->geometry));
            $fit = FitDatum::brushed($blob, SurfaceSeed::placement($blob, $body), $ranges, $parameters->kind, $parameters->name, held: self::held($workpiece, $parameters));

            return $fit['datum']->ofBody($body->id);
        }
        throw UnsuitableInput::because('The region names no face of a mesh that is there; brush over the surface again.');
    }

    private function atSeed(Workpiece $workpiece, AddDatumParameters $parameters): Datum
    {
        $seed = array_map(floatval(...), $parameters->seed ?? []);
        if ($parameters->kind === 'point') {
            return FitDatum::fromPoints([[$seed[0], $seed[1], $seed[2]]], 'point', $parameters->name);
        }

        return SurfaceSeed::fit($workpiece, [$seed, ...array_map(fn (array $place) => array_map(floatval(...), $place), $parameters->also ?? [])], $parameters->kind, $parameters->angle, $parameters->name, self::held($workpiece, $parameters));
    }
}
