<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Shapes\FoundShape;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;

/**
 * The shapes found on a body, and which face has which: an artefact of kind `shapes`.
 *
 * @phpstan-type Entry array{id: string, kind: string, origin: array{float, float, float}, direction: array{float, float, float}, radius: float, halfAngle: float, tube: float, size: float, place: array{float, float, float}, area: float, faces: int, rms: float, max: float}
 */
final readonly class ShapeMap
{
    public const KIND = 'shapes';

    /** Shapes of one body: a face tells its own in 16 bits. */
    private const MOST = 65_000;

    /**
     * @param  list<int>  $labels  of each face the place of its shape in the list
     * @param  list<Entry>  $entries  lengths in mm, angles in degrees: origin and direction as of a datum, `tube` the radius of a torus' tube, `size` half of what it reaches, `place` a place of it
     */
    public function __construct(public array $labels, public array $entries)
    {
    }

    /**
     * @param  list<int>  $labels
     * @param  list<FoundShape>  $shapes
     * @param  int  $first  number of the first, for its id
     *
     * @throws InvalidParameter when there are more shapes than a map can number
     */
    public static function of(TriangleMesh $mesh, array $labels, array $shapes, int $first): self
    {
        if (count($shapes) > self::MOST) {
            throw InvalidParameter::of('minArea', 'is so small that there are '.count($shapes).' areas; make it larger');
        }
        $centres = Measure::centres($mesh->positions, $mesh->faces);
        $of = array_fill(0, count($shapes), []);
        foreach ($labels as $t => $label) {
            $of[$label][] = $t;
        }

        return new self($labels, array_map(fn (FoundShape $shape, int $k) => self::entry($shape, 'shape-'.($first + $k), $of[$k], $mesh, $centres), $shapes, array_keys($shapes)));
    }

    /**
     * @param  list<int>  $faces
     * @param  list<float>  $centres
     * @return Entry
     */
    private static function entry(FoundShape $found, string $id, array $faces, TriangleMesh $mesh, array $centres): array
    {
        $middle = [0.0, 0.0, 0.0];
        foreach ($faces as $t) {
            for ($c = 0; $c < 3; $c++) {
                $middle[$c] += $centres[3 * $t + $c] / count($faces);
            }
        }
        $shape = $found->shape;
        $direction = $shape === null || $shape->kind === 'sphere' ? [0.0, 0.0, 0.0] : $shape->direction();
        $isAxial = in_array($found->kind, ['cylinder', 'cone', 'torus', FoundShape::REVOLVED], true);
        $origin = $shape->origin ?? $middle;
        $nearest = INF;
        $place = $middle;
        $low = INF;
        $high = -INF;
        $reach = 0.0;
        foreach ($faces as $t) {
            $at = [$centres[3 * $t], $centres[3 * $t + 1], $centres[3 * $t + 2]];
            foreach ($isAxial ? array_slice($mesh->faces, 3 * $t, 3) : [] as $v) {
                $h = Vector3::dot(Vector3::minus([$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], $origin), $direction);
                [$low, $high] = [min($low, $h), max($high, $h)];
            }
            $way = Vector3::length(Vector3::minus($at, $middle));
            $reach = max($reach, $way);
            if ($way < $nearest) {
                [$nearest, $place] = [$way, $at];
            }
        }
        // The middle of what was seen: of an axis in its height, of a plane below the middle of its faces.
        $shift = $isAxial && $found->kind !== 'torus' ? 0.5 * ($low + $high) : 0.0;
        $radius = $shape === null ? 0.0 : ($shape->kind === 'sphere' ? $shape->tube : $shape->radius + ($found->kind === 'cone' ? $shift * tan($shape->tilt) : 0.0));
        $origin = $found->kind === 'plane' ? Vector3::minus($middle, Vector3::scaled($direction, Vector3::dot(Vector3::minus($middle, $origin), $direction))) : Vector3::plus($origin, Vector3::scaled($direction, $shift));

        return [
            'id' => $id, 'kind' => $found->kind, 'origin' => $origin, 'direction' => $direction, 'radius' => $found->kind === 'plane' ? 0.0 : $radius,
            'halfAngle' => $found->kind === 'cone' && $shape !== null ? rad2deg($shape->tilt) : 0.0, 'tube' => $found->kind === 'torus' && $shape !== null ? $shape->tube : 0.0,
            'size' => $isAxial ? max(0.5 * ($high - $low), 1e-3 * $reach) : $reach, 'place' => $place,
            'area' => $found->area, 'faces' => count($faces), 'rms' => $found->rms, 'max' => $found->max,
        ];
    }

    /** As an artefact that goes where the body goes; in the place of one that there was. */
    public function artefact(Body $body, ?Artefact $before): Artefact
    {
        $name = "Shapes of $body->name";

        return new Artefact($before->id ?? $name, $before->name ?? $name, self::KIND, ['labels' => base64_encode(Packed::shorts($this->labels)), 'shapes' => $this->entries], Placement::of(1.0, RigidTransform::identity()), $body->id);
    }

    /** What an artefact holds, where it stands now. */
    public static function ofArtefact(Artefact $artefact): self
    {
        $at = $artefact->placement;
        $entries = array_map(fn (array $one) => [
            ...$one, 'origin' => $at->point($one['origin']), 'direction' => $at->pose->direction($one['direction']), 'place' => $at->point($one['place']),
            ...array_map(fn (float $length) => $at->scale * $length, array_intersect_key($one, ['radius' => 0, 'tube' => 0, 'size' => 0, 'rms' => 0, 'max' => 0])), 'area' => $at->scale ** 2 * $one['area'],
        ], $artefact->data['shapes']);

        return new self(Packed::toShorts((string) base64_decode($artefact->data['labels'], true)), $entries);
    }

    /**
     * The artefact that has a shape of that id.
     *
     * @param  list<Artefact>  $artefacts
     *
     * @throws InvalidParameter when there is none
     */
    public static function having(array $artefacts, string $id, string $parameter): Artefact
    {
        $last = null;
        foreach ($artefacts as $artefact) {
            if ($artefact->kind === self::KIND && in_array($id, array_column($artefact->data['shapes'] ?? [], 'id'), true)) {
                $last = $artefact;
            }
        }
        $there = count(array_filter($artefacts, fn (Artefact $one) => $one->kind === self::KIND));

        return $last ?? throw InvalidParameter::of($parameter, "names \"$id\", ".($there === 0 ? 'but no shapes were found yet: run find-shapes first' : 'which no body has; look at the list of shapes'));
    }

    /**
     * The endless shape of an entry; null where it has none that distances are measured from.
     *
     * @param  Entry  $entry
     */
    public static function endless(array $entry): ?TurnedShape
    {
        return match ($entry['kind']) {
            'plane' => TurnedShape::plane($entry['origin'], $entry['direction']),
            'cylinder' => new TurnedShape('cylinder', $entry['origin'], $entry['direction'], $entry['radius']),
            'cone' => new TurnedShape('cone', $entry['origin'], $entry['direction'], $entry['radius'], deg2rad($entry['halfAngle'])),
            'sphere' => new TurnedShape('sphere', $entry['origin'], [0.0, 0.0, 1.0], 0.0, 0.0, $entry['radius']),
            'torus' => new TurnedShape('torus', $entry['origin'], $entry['direction'], $entry['radius'], 0.0, $entry['tube']),
            default => null,
        };
    }

    /**
     * The datums that there are, and every shape that was found as one more, by its id: what a step may refer to by name.
     *
     * @return list<Datum>
     */
    public static function references(Workpiece $workpiece): array
    {
        $all = $workpiece->datums;
        foreach ($workpiece->artefacts as $artefact) {
            foreach ($artefact->kind === self::KIND && $artefact->data !== [] ? self::ofArtefact($artefact)->entries : [] as $entry) {
                if ($entry['kind'] !== FoundShape::FREE) {
                    $all[] = self::datum($entry, $entry['id'], $artefact->bodyId);
                }
            }
        }

        return $all;
    }

    /** @return Entry */
    public function entryOf(string $id): array
    {
        return array_column($this->entries, null, 'id')[$id];
    }

    /**
     * A shape as a datum.
     *
     * @param  Entry  $entry
     *
     * @throws InvalidParameter of what is no reference
     */
    public static function datum(array $entry, string $name, ?string $bodyId): Datum
    {
        $kind = $entry['kind'] === FoundShape::REVOLVED || $entry['kind'] === 'torus' ? 'line' : $entry['kind'];
        if ($kind === FoundShape::FREE) {
            throw InvalidParameter::of('shape', "names {$entry['id']}, which is free form: it is no reference");
        }

        return new Datum($name, $name, $kind, $entry['origin'], $entry['direction'], $kind === 'line' ? 0.0 : $entry['radius'], $entry['size'], $entry['rms'], $entry['max'], $entry['faces'], 'region', $bodyId, $entry['halfAngle']);
    }

    /**
     * As a report lists them.
     *
     * @param  float  $mm  millimetres of the unit that lengths are told in
     * @return list<array{id: string, body: string, kind: string, parameters: array<string, mixed>, area: float, faces: int, rms: float, max: float}>
     */
    public function report(string $body, float $mm): array
    {
        return array_map(function (array $one) use ($body, $mm): array {
            $origin = Vector3::scaled($one['origin'], 1.0 / $mm);
            $diameter = 2.0 * $one['radius'] / $mm;
            $parameters = match ($one['kind']) {
                'plane' => ['point' => $origin, 'normal' => $one['direction']],
                'cylinder' => ['point' => $origin, 'axis' => $one['direction'], 'diameter' => $diameter],
                'cone' => ['point' => $origin, 'axis' => $one['direction'], 'diameter' => $diameter, 'halfAngle' => $one['halfAngle']],
                'sphere' => ['centre' => $origin, 'diameter' => $diameter],
                'torus' => ['centre' => $origin, 'axis' => $one['direction'], 'diameter' => $diameter, 'tubeDiameter' => 2.0 * $one['tube'] / $mm],
                FoundShape::REVOLVED => ['point' => $origin, 'axis' => $one['direction']],
                default => [],
            };

            return ['id' => $one['id'], 'body' => $body, 'kind' => $one['kind'], 'parameters' => $parameters, 'area' => $one['area'] / $mm ** 2, 'faces' => $one['faces'], 'rms' => $one['rms'] / $mm, 'max' => $one['max'] / $mm];
        }, $this->entries);
    }
}
