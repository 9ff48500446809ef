<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Brep\BoundaryRepresentation;
use Emberstone\Core\Algorithms\Brep\EdgeCurve;
use Emberstone\Core\Algorithms\Brep\ShapeSewing;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Exchange\Ap214;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;

/**
 * A body for programs that model with faces: as STEP, in the unit and with the axis up that the brief asks for.
 *
 * The shapes found on it become faces that share their edges (see Algorithms\Brep\ShapeSewing), closed to a solid where they enclose one, free form between them as flat triangles. A body on which no shapes
 * were found comes as it is, with neighbours in one plane joined. Its datums, frames and sections come along under their names.
 */
final readonly class StepModel
{
    /** Flat faces that programs still open and turn without waiting. */
    public const HEAVY = 20_000;

    /** Flat faces for which a file is still written: it has 300 MB. */
    private const MOST = 300_000;

    /** mm that a line or an arc may lie off the border of the mesh that it stands for, where shapes meet at an angle: a tenth of a scanner's noise. */
    private const EXACT = 0.005;

    /** @param  list<string>  $notes  what whoever hands it over should know */
    private function __construct(public string $bytes, public array $notes)
    {
    }

    /**
     * @param  list<Artefact>  $artefacts  all there are: those of the body are taken
     * @param  list<Datum>  $datums  all there are: those of the body and those of none are taken
     * @param  Datum|null  $frame  a kept frame to write it in; the one that is set when null
     *
     * @throws UnsuitableInput when there are no shapes and too many faces to go without
     */
    public static function of(string $title, Body $body, TriangleMesh $mesh, array $artefacts, array $datums, Brief $brief, ?Datum $frame = null): self
    {
        $file = new Ap214($title, $brief->unit, ($frame?->intoFrame() ?? RigidTransform::identity())->then(Delivery::transform($brief)));
        [$part, $notes] = self::part($title, $body, $mesh, $artefacts);
        $file->add($title, $part);
        foreach ($datums as $datum) {
            if ($datum->bodyId === null || $datum->bodyId === $body->id) {
                self::addDatum($file, $datum);
            }
        }
        foreach ($artefacts as $artefact) {
            if ($artefact->kind === SectionDrawing::KIND && $artefact->bodyId === $body->id) {
                $file->addCurves($artefact->name, SectionDrawing::inSpace($artefact));
            }
        }

        return new self($file->written(), $notes);
    }

    /**
     * @param  list<Artefact>  $artefacts
     * @return array{BoundaryRepresentation, list<string>}
     */
    private static function part(string $title, Body $body, TriangleMesh $mesh, array $artefacts): array
    {
        $own = array_values(array_filter($artefacts, fn (Artefact $one) => $one->kind === ShapeMap::KIND && $one->bodyId === $body->id));
        $map = $own === [] ? null : ShapeMap::ofArtefact($own[count($own) - 1]);
        $shapes = array_map(ShapeMap::endless(...), $map->entries ?? []);
        if ($map === null || count($map->labels) !== $mesh->faceCount() || array_filter($shapes) === []) {
            $why = $map === null ? 'no shapes were found on it' : (array_filter($shapes) === [] ? 'it is free form all over' : 'it has changed since its shapes were found');
            if ($mesh->faceCount() > self::MOST) {
                throw UnsuitableInput::because("$title cannot be written as STEP: $why, and as ".Format::many($mesh->faceCount(), 'flat face').' no program would open it. Find its shapes first, or make it lighter.');
            }
            $part = ShapeSewing::flats($mesh->positions, $mesh->faces);
            $notes = ["$title as STEP is made of ".Format::many(count($part->faces), 'flat face').": $why."];

            return [$part, count($part->faces) > self::HEAVY ? [...$notes, 'That is more than most programs turn with ease: make it lighter, or find its shapes.'] : $notes];
        }
        $free = count(array_filter($map->labels, fn (int $label) => $shapes[$label] === null));
        $part = ShapeSewing::of($mesh->positions, $mesh->faces, $map->labels, $shapes, self::HEAVY, self::EXACT);
        $isSolid = $part->shells !== [] && array_filter($part->shells, fn (array $shell) => ! $shell['isClosed']) === [];
        $notes = [sprintf('%s as STEP is %s of %s; its edges lie within %s of the shapes that meet there.', $title, $isSolid ? 'a closed solid' : 'an open shell', Format::many(count($part->faces), 'face'), Format::mm($part->farthest))];
        if ($free > self::HEAVY) {
            $notes[] = 'What is free form was left out of it: '.Format::many($free, 'triangle').' are more than programs turn with ease. Make the body lighter to have it closed.';
        }

        return [$part, $notes];
    }

    private static function addDatum(Ap214 $file, Datum $datum): void
    {
        [$at, $way, $size] = [$datum->origin, $datum->direction, $datum->size];
        match ($datum->kind) {
            'point' => $file->addPoint($datum->name, $at),
            'frame' => $file->addFrame($datum->name, $at, $way, $datum->across),
            'line' => $file->addCurves($datum->name, [EdgeCurve::line(Vector3::minus($at, Vector3::scaled($way, $size)), Vector3::plus($at, Vector3::scaled($way, $size)))]),
            'plane' => $file->add($datum->name, self::square($at, $way, $size)),
            'sphere' => $file->add($datum->name, new BoundaryRepresentation([], [], [['shape' => new TurnedShape('sphere', $at, [0.0, 0.0, 1.0], 0.0, 0.0, $datum->radius), 'facesOut' => true, 'loops' => []]], [['faces' => [0], 'isClosed' => false]])),
            'cylinder' => $file->add($datum->name, self::band(new TurnedShape('cylinder', $at, $way, $datum->radius), $size)),
            default => $file->add($datum->name, self::band(new TurnedShape('cone', $at, $way, $datum->radius, deg2rad($datum->halfAngleDeg)), $size)),
        };
    }

    /**
     * A plane datum as a square face.
     *
     * @param  array{float, float, float}  $middle  mm
     * @param  array{float, float, float}  $normal  unit
     * @param  float  $half  of its side, mm
     */
    private static function square(array $middle, array $normal, float $half): BoundaryRepresentation
    {
        [$u, $v] = Vector3::square($normal);
        $corners = array_map(fn (array $s) => Vector3::plus($middle, Vector3::plus(Vector3::scaled($u, $s[0] * $half), Vector3::scaled($v, $s[1] * $half))), [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]]);
        $edges = array_map(fn (int $k) => ['from' => $k, 'to' => ($k + 1) % 4, 'curve' => EdgeCurve::line($corners[$k], $corners[($k + 1) % 4])], [0, 1, 2, 3]);

        return new BoundaryRepresentation($corners, $edges, [['shape' => TurnedShape::plane($middle, $normal), 'facesOut' => true, 'loops' => [[1, 2, 3, 4]]]], [['faces' => [0], 'isClosed' => false]]);
    }

    /** A cylinder or cone datum as a face between two circles, or up to its tip. */
    private static function band(TurnedShape $shape, float $half): BoundaryRepresentation
    {
        $out = Vector3::square($shape->axis)[0];
        $corners = $edges = $loop = [];
        foreach ([-$half, $half] as $k => $height) {
            $radius = $shape->radius + $height * tan($shape->tilt);
            if ($radius <= 0.0) {
                continue;
            }
            $centre = Vector3::plus($shape->origin, Vector3::scaled($shape->axis, $height));
            $corners[] = Vector3::plus($centre, Vector3::scaled($out, $radius));
            $edges[] = ['from' => count($edges), 'to' => count($edges), 'curve' => EdgeCurve::wholeCircle($centre, $shape->axis, $corners[count($corners) - 1])];
            $loop[] = [$k === 0 ? count($edges) : -count($edges)];
        }

        return new BoundaryRepresentation($corners, $edges, [['shape' => $shape, 'facesOut' => true, 'loops' => $loop]], [['faces' => [0], 'isClosed' => false]]);
    }
}
