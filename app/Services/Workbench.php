<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Deliver\Figures;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Emberstone\Core\Deliver\HeightPictures;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\ReadThing;
use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Lighten\BodyLevels;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\PoseError;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\ShadeMap;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Illuminate\Support\Str;

/** Turns a snapshot (rows and hashes) into a workpiece (geometry) and back. */
final class Workbench
{
    public function __construct(private readonly BlobStore $blobs)
    {
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @param  list<string>|null  $on  ids; null stands for all
     * @param  string  $needs  see About: what is not needed is not read
     * @param  bool  $readsArtefacts  see About
     * @param  bool  $seesPasses  see About
     */
    public function workpiece(array $snapshot, ?array $on, string $needs, bool $readsArtefacts = false, bool $seesPasses = false): Workpiece
    {
        $gone = count(array_diff($on ?? [], array_column([...$snapshot['passes'], ...$snapshot['bodies']], 'id')));
        if ($gone > 0) {
            throw UnsuitableInput::because(sprintf('%s that this step was meant for %s not here any more; choose what it shall work on and run it again.', $gone === 1 ? 'One thing' : "$gone things", $gone === 1 ? 'is' : 'are'));
        }
        $artefacts = array_map($readsArtefacts ? $this->artefact(...) : self::artefactWithout(...), $snapshot['artefacts']);
        $chosen = fn (array $items) => array_values(array_filter($items, fn (array $item) => $on === null || in_array($item['id'], $on, true)));
        if ($needs === 'places') {
            $nothing = PointCloud::fromFlat([]);
            $place = self::placement(...);

            return new Workpiece(
                array_map(fn (array $row) => new Pass($row['id'], $row['name'], $nothing, $place($row)->pose, null, $row['residual'], $row['overlap'], $place($row)->scale, PoseError::fromArray($row['poseError'] ?? null)), $chosen($snapshot['passes'])),
                array_map(fn (array $row) => new Body($row['id'], $row['name'], $nothing, $place($row)->pose, $row['leftOpen'] ?? [], $place($row)->scale), $chosen($snapshot['bodies'])),
                array_map(Datum::fromArray(...), $snapshot['datums']),
                $artefacts,
            );
        }
        $passes = match (true) {
            $seesPasses => $snapshot['passes'],
            in_array($needs, ['passes', 'any'], true) => $chosen($snapshot['passes']),
            default => [],
        };
        $bodies = in_array($needs, ['meshes', 'bodies', 'any'], true) ? array_map($this->body(...), $chosen($snapshot['bodies'])) : [];

        return new Workpiece(array_map($this->pass(...), $passes), $bodies, array_map(Datum::fromArray(...), $snapshot['datums']), $artefacts);
    }

    /** @return list<array<string, mixed>> what to colour items by, their bytes stored as blobs */
    public function maps(Result $result): array
    {
        return array_map(fn (ShadeMap $map) => ['target' => $map->target, 'label' => $map->label, 'unit' => $map->unit, 'from' => $map->from, 'to' => $map->to, 'band' => $map->band, 'blob' => $this->blobs->put(Blob::encodeMask($map->bytes))], $result->maps);
    }

    /** @param  array<string, mixed>  $row */
    public function pass(array $row): Pass
    {
        $placement = self::placement($row);

        return new Pass($row['id'], $row['name'], Blob::source(fn () => $this->blobs->path($row['blob'])), $placement->pose, $row['mask'] === null ? null : Blob::decodeMask($this->blobs->get($row['mask'])), $row['residual'], $row['overlap'], $placement->scale, PoseError::fromArray($row['poseError'] ?? null));
    }

    /** @param  array<string, mixed>  $row */
    public function body(array $row): Body
    {
        $placement = self::placement($row);

        return new Body($row['id'], $row['name'], Blob::decode($this->blobs->get($row['blob'])), $placement->pose, $row['leftOpen'] ?? [], $placement->scale);
    }

    /**
     * Where an artefact stands, without what it holds: few operations look into those that are there.
     *
     * @param  array<string, mixed>  $row
     */
    private static function artefactWithout(array $row): Artefact
    {
        return new Artefact($row['id'], $row['name'], $row['kind'], [], self::placement($row), $row['bodyId'], $row['version']);
    }

    /** @param  array<string, mixed>  $row */
    public function artefact(array $row): Artefact
    {
        return new Artefact($row['id'], $row['name'], $row['kind'], json_decode($this->blobs->get($row['blob']), true, 64, JSON_THROW_ON_ERROR), self::placement($row), $row['bodyId'], $row['version']);
    }

    /**
     * @param  list<Artefact>  $after
     * @param  list<array<string, mixed>>  $before  rows
     * @param  int  $made  how many things the step has made besides
     * @param  array<string, true>  $taken  names (changed)
     * @param  array<string, string>  $surfaces  blobs by the id of the body
     * @return list<array<string, mixed>>
     */
    private function artefactRows(array $after, array $before, Step $step, int $made, array &$taken, array $surfaces): array
    {
        $rows = [];
        $was = array_column($before, null, 'id');
        foreach ($after as $artefact) {
            $row = $was[$artefact->id] ?? ['id' => $step->idOfMade($made++), 'name' => Names::distinct($artefact->name, $taken), 'kind' => $artefact->kind, 'version' => $artefact->version];
            $placed = ['transform' => $artefact->placement->matrix(), 'bodyId' => $artefact->bodyId];
            // Of one that was not read only its place is known.
            $rows[] = $placed + ($artefact->data === [] ? $row : $this->held($artefact, $surfaces[$artefact->bodyId ?? ''] ?? null, $row) + $row);
        }

        return $rows;
    }

    /**
     * What an artefact holds, as its row knows it.
     *
     * @param  string|null  $surface  blob of the body now
     * @param  array<string, mixed>  $row  before
     * @return array{blob: string, parts: int, surface: string|null}
     */
    private function held(Artefact $artefact, ?string $surface, array $row): array
    {
        $blob = $this->blobs->put(json_encode($artefact->data, JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION));
        $isOfSurface = in_array($artefact->kind, [ShapeMap::KIND, BodyLevels::KIND], true);
        $parts = match ($artefact->kind) {
            ShapeMap::KIND => $artefact->data['shapes'],
            BodyLevels::KIND => $artefact->data['stops'],
            HeightPictures::KIND => HeightPictures::sides($artefact),
            HandedOver::KIND => HandedOver::of($artefact)->files(),
            default => SectionDrawing::figures($artefact),
        };

        return [
            'blob' => $blob, 'parts' => count($parts),
            // What shapes and levels were found on: of a surface that has changed since they tell nothing.
            'surface' => ! $isOfSurface ? null : (($row['blob'] ?? null) === $blob ? $row['surface'] : $surface),
        ];
    }

    /**
     * Rows hold one matrix from the numbers of the blob to the project's millimetres (what the browser draws with), so the scale is found in it.
     *
     * @param  array<string, mixed>  $row
     */
    public static function placement(array $row): Placement
    {
        return Placement::fromMatrix($row['transform']);
    }

    /**
     * The snapshot after an operation: new blobs for what changed, the old rows for all else.
     *
     * @param  array<string, mixed>  $snapshot
     * @return array<string, mixed>
     */
    public function merged(array $snapshot, Workpiece $before, Result $result, Step $step, bool $isPart): array
    {
        $after = $result->workpiece;
        $oldPasses = array_column($before->passes, null, 'id');
        $oldBodies = array_column($before->bodies, null, 'id');
        $passes = array_column($snapshot['passes'], null, 'id');
        $bodies = array_column($snapshot['bodies'], null, 'id');
        $taken = array_fill_keys(array_column([...$passes, ...$bodies, ...$snapshot['artefacts']], 'name'), true);
        $made = 0;
        // What goes along with a body that was just made knows it by its name.
        $known = [];
        foreach ($after->passes as $pass) {
            $row = $passes[$pass->id] ?? null;
            $id = $row === null ? $step->idOfMade($made++) : $pass->id;
            $passes[$id] = $this->passRow($pass, $row ?? ['id' => $id, 'name' => Names::distinct($pass->name, $taken)], $oldPasses[$pass->id] ?? null);
        }
        foreach ($after->bodies as $body) {
            $row = $bodies[$body->id] ?? null;
            $id = $row === null ? $step->idOfMade($made++) : $body->id;
            $bodies[$id] = $this->bodyRow($id, $body, $row ?? ['name' => Names::distinct($body->name, $taken)], $oldBodies[$body->id] ?? null);
            $known[$body->id] = $id;
        }
        // What was worked on and is not there any more has been taken out.
        $left = array_map(fn (Pass|Body $item) => $item->id, [...$after->passes, ...$after->bodies]);
        foreach (array_diff(array_keys($oldPasses + $oldBodies), $left) as $gone) {
            unset($passes[$gone], $bodies[$gone]);
        }
        // Passes that were not read move along when everything moves; operations that move all ask for "any".
        $snapshot['passes'] = array_values($passes);
        $snapshot['bodies'] = array_values($bodies);
        $datums = ! $isPart ? $after->datums : $result->datumsWithin($before->datums, $before);
        $snapshot['datums'] = array_map(fn (Datum $datum) => $datum->ofBody($known[$datum->bodyId ?? ''] ?? $datum->bodyId)->toArray(), $datums);
        $artefacts = ! $isPart ? $after->artefacts : $result->artefactsWithin($before->artefacts, $before);
        $snapshot['artefacts'] = $this->artefactRows(array_map(fn (Artefact $one) => $one->ofBody($known[$one->bodyId ?? ''] ?? $one->bodyId), [...$artefacts, ...$result->shown]), $snapshot['artefacts'], $step, $made, $taken, array_column($snapshot['bodies'], 'blob', 'id'));
        // Whoever confirmed the scale confirmed that one, and not what it became since.
        $hasScaleChanged = $result->everything !== null && $result->everything->scale !== 1.0;
        $snapshot['scaleConfirmed'] = match (true) {
            $step->operation === 'confirm-scale' => ['by' => (string) $step->takenBy(), 'at' => ($step->created_at ?? now())->toIso8601String()],
            $hasScaleChanged => null,
            default => $step->project->scaleConfirmed($snapshot),
        };
        $snapshot['scaleError'] = $result->scaleErrorAfter($snapshot['scaleError'] ?? null);
        $snapshot['oriented'] = $snapshot['oriented'] || in_array($step->operation, ['set-frame', 'frame-from-points'], true);

        return $snapshot;
    }

    /**
     * @param  array<string, mixed>|null  $row
     * @return array<string, mixed>
     */
    public function passRow(Pass $pass, ?array $row, ?Pass $old): array
    {
        if ($row !== null && $old?->source === $pass->source && $old->mask === $pass->mask) {
            return ['transform' => $pass->placement()->matrix(), 'residual' => $pass->residual, 'overlap' => $pass->overlap, 'poseError' => $pass->poseError?->toArray()] + $row;
        }
        $blob = $row !== null && $old?->source === $pass->source ? $row['blob'] : $this->blobs->put(Blob::encode($pass->cloud()));
        $mask = $pass->mask === null ? null : $this->blobs->put(Blob::encodeMask($pass->mask));

        return [
            ...$row ?? ['id' => (string) Str::uuid(), 'name' => $pass->name], 'blob' => $blob, 'mask' => $mask,
            'points' => $pass->count(), 'kept' => $pass->keptCount(), 'transform' => $pass->placement()->matrix(),
            'residual' => $pass->residual, 'overlap' => $pass->overlap, 'poseError' => $pass->poseError?->toArray(),
        ];
    }

    /**
     * The row of a pass or body that was just read from a file.
     *
     * @return array<string, mixed>
     */
    public function newRow(ReadThing $thing, string $name, Placement $placement): array
    {
        $row = ['id' => (string) Str::uuid(), 'name' => $name, 'blob' => $this->blobs->putFile($thing->blob), 'points' => $thing->points, 'transform' => $placement->matrix()];

        return $row + ($thing->kind === 'mesh' ? ['kind' => 'mesh', 'faces' => $thing->faces, 'quads' => $thing->quads] : ['mask' => null, 'kept' => $thing->points, 'residual' => null, 'overlap' => null]);
    }

    /**
     * @param  array<string, mixed>|null  $row
     * @return array<string, mixed>
     */
    public function bodyRow(string $id, Body $body, ?array $row, ?Body $old): array
    {
        $geometry = $body->geometry;
        if ($row !== null && $old?->geometry === $geometry) {
            return ['transform' => $body->placement()->matrix(), 'leftOpen' => $body->leftOpen] + $row;
        }

        return [
            ...$row ?? ['name' => $body->name], 'id' => $id, 'blob' => $this->blobs->put(Blob::encode($geometry)),
            'kind' => $geometry instanceof TriangleMesh ? 'mesh' : 'cloud', 'points' => intdiv(count($geometry->positions), 3),
            'faces' => $geometry instanceof TriangleMesh ? $geometry->faceCount() : 0, 'quads' => $geometry instanceof TriangleMesh ? count($geometry->quads) : 0, 'transform' => $body->placement()->matrix(), 'leftOpen' => $body->leftOpen,
        ];
    }

    /**
     * The middles of the rims that shall stay open, in project coordinates.
     *
     * @param  array<string, mixed>  $row  of a body
     * @return list<array{0: float, 1: float, 2: float, 3?: float}>
     */
    private function openPlaces(array $row): array
    {
        return Body::placesOpen($row['leftOpen'] ?? [], self::placement($row));
    }

    /**
     * Figures for the ready card (for meshes whose geometry or size changed) and defaults for the next steps.
     *
     * @param  array<string, mixed>  $snapshot
     * @param  array<string, mixed>  $previous
     * @param  bool  $isMove  all that happened is that everything moved together: nothing need be read
     * @return array<string, mixed>
     */
    public function withFigures(array $snapshot, array $previous, Progress $progress, bool $isMove = false): array
    {
        $was = array_column($previous['bodies'], null, 'id');
        // A copy has the figures of what it is a copy of.
        $like = array_column($previous['bodies'], null, 'figuresKey');
        $passes = null;
        foreach ($snapshot['bodies'] as $k => $row) {
            $old = $was[$row['id']] ?? null;
            // A word: of numbers, JSON brings 1.0 back as 1, and no two keys would be the same.
            $figuresKey = $row['blob'].' '.round(self::placement($row)->scale, 9);
            if ($row['kind'] !== 'mesh') {
                continue;
            }
            $old = $old !== null && ($old['figuresKey'] ?? null) === $figuresKey ? $old : $like[$figuresKey] ?? null;
            if ($old !== null) {
                $snapshot['bodies'][$k]['figures'] = Figures::moved($old['figures'], self::placement($old)->pose->inverse()->then(self::placement($row)->pose), $this->openPlaces($row));
                $snapshot['bodies'][$k]['figuresKey'] = $figuresKey;

                continue;
            }
            $passes ??= array_map($this->pass(...), $snapshot['passes']);
            $placed = $this->body($row)->placed();
            assert($placed instanceof TriangleMesh);
            $snapshot['bodies'][$k]['figures'] = Figures::of($placed, $passes, $this->openPlaces($row), $progress);
            $snapshot['bodies'][$k]['figuresKey'] = $figuresKey;
        }
        $key = implode(' ', array_map(fn (array $row) => "{$row['blob']} {$row['mask']} {$row['transform'][0]}", $snapshot['passes']));
        if ($isMove && isset($previous['suggestionsKey'])) {
            $snapshot['passes'] = array_map(fn (array $row) => isset($row['box']) ? ['bounds' => self::boxAround($row)] + $row : $row, $snapshot['passes']);
            $snapshot['suggestionsKey'] = $key;
        } elseif ($key !== ($previous['suggestionsKey'] ?? null)) {
            $workpiece = new Workpiece($passes ?? array_map($this->pass(...), $snapshot['passes']));
            foreach (Catalogue::names() as $name) {
                $values = Catalogue::suggestions($name, $workpiece);
                if ($values !== []) {
                    $snapshot['suggestions'][$name] = $values;
                }
            }
            $snapshot['suggestionsKey'] = $key;
            foreach ($snapshot['passes'] as $k => $row) {
                $pass = $passes[$k] ?? $workpiece->passes[$k];
                // In the numbers of the file, so that it still holds when what they mean changes.
                $own = BoundingBox::of(($pass->mask === null ? $pass->cloud() : $pass->cloud()->kept($pass->mask))->positions);
                $box = BoundingBox::of($pass->placed()->positions);
                $snapshot['passes'][$k] = ['box' => ['min' => $own->min, 'max' => $own->max], 'bounds' => ['min' => $box->min, 'max' => $box->max]] + $row;
            }
            $snapshot['lengthMm'] = self::length(array_column($snapshot['passes'], 'bounds'));
        }

        return $snapshot;
    }

    /**
     * The longest side of what several boxes bound; null of none.
     *
     * @param  list<array{min: list<float>, max: list<float>}>  $boxes
     */
    private static function length(array $boxes): ?float
    {
        return $boxes === [] ? null : max(array_map(fn (int $k) => max(array_column(array_column($boxes, 'max'), $k)) - min(array_column(array_column($boxes, 'min'), $k)), [0, 1, 2]));
    }

    /**
     * What bounds a pass where it stands now, from the box around it in its own coordinates: never too small.
     *
     * @param  array<string, mixed>  $row
     * @return array{min: array{float, float, float}, max: array{float, float, float}}
     */
    private static function boxAround(array $row): array
    {
        ['min' => $a, 'max' => $b] = $row['box'];
        $corners = [];
        foreach ([$a[0], $b[0]] as $x) {
            foreach ([$a[1], $b[1]] as $y) {
                array_push($corners, $x, $y, $a[2], $x, $y, $b[2]);
            }
        }
        $box = BoundingBox::of(self::placement($row)->points($corners));

        return ['min' => $box->min, 'max' => $box->max];
    }
}
