<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\ClickedPlace;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Datums\SurfaceSeed;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\ShadeMap;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Measures a distance, a step, an angle, a position, a diameter, an opening, a form, a wall, an area, a volume, a box or a length along the surface, with how sure it is and whether it is in tolerance.
 *
 * It changes nothing, but stays in the ledger, and is taken again whenever a step before it is.
 *
 * Error     standard deviations of DatumGauge, SurfaceGauge, LengthGauge, WallGauge and SizeGauge, told as twice that (k = 2).
 *
 * @implements Operation<MeasureParameters>
 */
final class TakeMeasure implements Operation
{
    /** Share of a body's size by which a surface may have moved from where it was clicked, as other settings of the steps before move it. */
    private const OFF = 0.01;

    private const VERDICTS = ['in' => 'in tolerance', 'out' => 'out of tolerance', 'unsure' => 'too near the limit to tell'];

    public static function about(): About
    {
        return new About('measure', Stage::Deliver, 'Measure', 'Measures what is clicked on the part, or datums, with how sure the value is and whether it is in tolerance.', 'bodies', MeasureParameters::class, readsArtefacts: true, seesPasses: true, avoid: 'Not on filled or reshaped surface: it was never measured; the value says what share was made up.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $looksAtFaces = ! in_array($parameters->kind, ['distance', 'step', 'position', 'angle', 'diameter', 'radius'], true);

        return new Estimate(0.1 + ($looksAtFaces ? 5e-6 * $workpiece->faceCount() : 0.0), 40 + ($looksAtFaces ? 6e-4 : 2e-4) * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($workpiece->bodies === [] && $workpiece->datums === []) {
            throw UnsuitableInput::because('There is nothing to measure yet: bring in a mesh or fuse the passes, and add datums on it.');
        }
        $known = $workpiece->withDatums(ShapeMap::references($workpiece));
        $of = array_map(fn (mixed $one) => self::thing($one, $parameters->kind, $known), $parameters->of);
        $scan = ScanError::of($workpiece);
        if ($parameters->kind === 'wall' && ! ($of[0] ?? null) instanceof Datum) {
            return self::resultOfWall($workpiece, $parameters, self::body($workpiece, $of[0] ?? null), $scan, $progress);
        }
        $measured = $scan->withScale(self::measured($parameters, $of, $known, $scan));
        $progress->advance('measuring', 1.0);
        if ($parameters->alike) {
            assert($of[0] instanceof Datum);

            return self::resultOfMany($workpiece, $parameters, $scan, $of[0], [$of[0], ...Alike::to($of[0], $known->datums, $workpiece->artefacts)]);
        }
        $verdict = $measured->verdict($parameters->nominal, $parameters->plus, $parameters->minus);
        $name = $parameters->name ?? trim(ucfirst($parameters->kind).' of '.implode(' to ', array_map(fn (Datum|Body $one) => $one->name, $of)), ' of');
        $words = [$measured->inWords(), ...array_map(fn (string $key, float $value) => "$key ".(new Measurement($value, $measured->unit, null))->inWords(), array_keys($measured->more), $measured->more), ...($verdict === null ? [] : [self::VERDICTS[$verdict]]), $name];
        $figures = self::figures($parameters, $measured, $name);

        return new Result($workpiece, implode(' · ', $words), [], ['measurements' => [$figures]], self::notes($parameters->kind, $measured, $of[0] ?? null, $workpiece, $scan));
    }

    /** @return list<string> what is in the uncertainty, and what it means */
    private static function notes(string $kind, Measurement $measured, Datum|Body|null $of, Workpiece $workpiece, ScanError $scan): array
    {
        if ($measured->uncertainty() === null) {
            return [];
        }
        $notes = [$scan->inWords()];
        if (in_array($kind, MeasureParameters::FORMS, true)) {
            $notes[] = sprintf('A perfect surface, scanned with this noise, would read up to %s.', Format::mm($measured->uncertainty()));
        } elseif (in_array($kind, MeasureParameters::OF_BODIES, true)) {
            $mesh = self::mesh($workpiece, $of);
            $madeUp = array_sum($mesh->madeUp(Measure::areas($mesh->positions, $mesh->faces)));
            $kind === 'volume' && ! $scan->knowsAreas() && $notes[] = 'The passes hold too many points to tell which of them saw what: where they stand is not in the uncertainty of a volume.';
            $madeUp > 0.0 && $notes[] = sprintf('%.2g %% of its surface is made up; how far off that is nobody knows, and it is not in the uncertainty.', 100.0 * $madeUp);
        }

        return $notes;
    }

    /** @return array<string, mixed> as reports list it, lengths in mm */
    private static function figures(MeasureParameters $parameters, Measurement $measured, string $name): array
    {
        return [
            'name' => $name, 'kind' => $parameters->kind, 'value' => $measured->value, 'uncertainty' => $measured->uncertainty(), 'unit' => $measured->unit, 'nominal' => $parameters->nominal,
            'plus' => $parameters->plus, 'minus' => $parameters->minus, 'verdict' => $measured->verdict($parameters->nominal, $parameters->plus, $parameters->minus),
            'more' => (object) $measured->more, 'place' => $measured->place, 'line' => $measured->line, 'words' => $measured->inWords(),
        ];
    }

    /** The thinnest places of a wall, and a map of it. */
    private static function resultOfWall(Workpiece $workpiece, MeasureParameters $parameters, Body $body, ScanError $scan, Progress $progress): Result
    {
        $gauge = new WallGauge($body->placedMesh(), $parameters->by === 'ball', $scan);
        $thinnest = array_map($scan->withScale(...), $gauge->thinnest());
        $progress->advance('measuring', 0.3);
        $map = $gauge->map();
        $progress->advance('measuring', 1.0);
        $known = array_values(array_filter($map, fn (?float $one) => $one !== null));
        sort($known);
        $name = $parameters->name ?? "Wall of $body->name";
        $figures = self::figures($parameters, $thinnest[0], $name) + ['places' => array_map(fn (Measurement $one) => ['point' => $one->place, 'thickness' => $one->value, 'line' => $one->line], $thinnest)];
        $verdict = $figures['verdict'];
        // The thickest tenth would take all the shades.
        $to = $known === [] ? $thinnest[0]->value : $known[(int) (0.9 * (count($known) - 1))];

        return new Result(
            $workpiece, implode(' · ', ['thinnest '.$thinnest[0]->inWords(), ...($verdict === null ? [] : [self::VERDICTS[$verdict]]), $name]), [], ['measurements' => [$figures]],
            $thinnest[0]->uncertainty() === null ? [] : [$scan->inWords()], maps: [ShadeMap::of($body->id, 'Wall', 'mm', $map, 0.0, max($to, 1e-6))],
        );
    }

    /**
     * The diameters of things that are alike, each by itself.
     *
     * @param  non-empty-list<Datum>  $all  the one that was named first
     */
    private static function resultOfMany(Workpiece $workpiece, MeasureParameters $parameters, ScanError $scan, Datum $first, array $all): Result
    {
        $name = $parameters->name ?? "Diameter like $first->name";
        $figures = $values = $verdicts = [];
        foreach ($all as $k => $one) {
            $measured = $scan->withScale(DatumGauge::diameter($one, $scan));
            $figures[] = self::figures($parameters, $measured, $name.' '.($k + 1));
            $values[] = $measured->value;
            $verdicts[] = $measured->verdict($parameters->nominal, $parameters->plus, $parameters->minus);
        }
        $words = [sprintf('%d alike, %.3f to %.3f mm', count($all), min($values), max($values))];
        foreach (self::VERDICTS as $verdict => $says) {
            $many = count(array_keys($verdicts, $verdict, true));
            $many === 0 || $words[] = "$many $says";
        }

        return new Result($workpiece, implode(' · ', [...$words, $name]), [], ['measurements' => $figures], [$scan->inWords()]);
    }

    /**
     * A datum, a typed place as one, what is fitted around a place, or a body.
     *
     * @param  string|array<int, float|int>|array{at: array<int, float|int>, fit?: string}  $one
     */
    private static function thing(string|array $one, string $kind, Workpiece $workpiece): Datum|Body
    {
        if (is_array($one)) {
            /** @var array<int, float|int> $at */
            $at = $one['at'] ?? $one;
            [$x, $y, $z] = array_map(floatval(...), array_values($at));
            /** @var string $fit */
            $fit = $one['fit'] ?? 'point';
            if ($fit === RimGauge::MADE) {
                return self::rim($workpiece, [$x, $y, $z])->circle;
            }
            if ($fit !== 'point') {
                return self::stillThere(SurfaceSeed::fit($workpiece, [[$x, $y, $z]], $fit, SurfaceSeed::ANGLE, $fit), [$x, $y, $z], $workpiece);
            }

            return ClickedPlace::known([new Datum('', sprintf('%g, %g, %g', $x, $y, $z), 'point', [$x, $y, $z], made: 'typed')], $workpiece->meshes())[0];
        }
        $isWallOfBody = $kind === 'wall' && array_filter($workpiece->bodies, fn (Body $body) => in_array($one, [$body->name, $body->id], true)) !== [];
        if ($isWallOfBody || in_array($kind, MeasureParameters::OF_BODIES, true)) {
            $body = $workpiece->named('of', $one);

            return $body instanceof Body ? $body : throw InvalidParameter::of('of', "names \"$one\", a pass; $kind is that of a mesh");
        }

        $datum = Datum::among($workpiece->datums, 'of', $one);

        return $datum->kind === 'point' && $datum->made === 'picked' && $datum->error === null ? ClickedPlace::known([$datum], $workpiece->meshes())[0] : $datum;
    }

    /**
     * What was fitted around a place, as long as it goes through that place: after a part was moved or cut, the nearest surface may be another one.
     *
     * @param  array{float, float, float}  $place
     *
     * @throws UnsuitableInput when it passes far from it
     */
    private static function stillThere(Datum $fitted, array $place, Workpiece $workpiece): Datum
    {
        $body = array_column($workpiece->meshes(), null, 'id')[$fitted->bodyId ?? ''] ?? $workpiece->meshes()[0];
        $limit = self::OFF * BoundingBox::of($body->placedMesh()->positions)->diagonal() + 3.0 * $fitted->max;
        if (abs($fitted->outside($place)) > $limit) {
            throw UnsuitableInput::because(sprintf('What was measured is not at %.4g, %.4g, %.4g any more: the %s nearest to it passes %.3g mm away. Click it anew.', ...[...$place, $fitted->kind, abs($fitted->outside($place))]));
        }

        return $fitted;
    }

    /** @param  array<int, Datum|Body>  $of */
    private static function measured(MeasureParameters $parameters, array $of, Workpiece $workpiece, ScanError $scan): Measurement
    {
        $one = $of[0] ?? null;
        $two = $of[1] ?? null;
        if (in_array($parameters->kind, MeasureParameters::OF_BODIES, true)) {
            return SizeGauge::of($parameters->kind, self::mesh($workpiece, $one), $scan);
        }
        if ($one instanceof Datum && $two instanceof Datum) {
            $along = $parameters->along === null ? null : AxisChoice::of('along', $parameters->along, $workpiece->datums)->direction;

            return match ($parameters->kind) {
                'step' => DatumGauge::step($one, $two, $scan),
                'position' => DatumGauge::position($one, $two, $scan),
                'angle' => DatumGauge::angle($one, $two, $scan),
                'length' => LengthGauge::between(self::mesh($workpiece, $one), self::place($one), self::place($two), $scan),
                default => DatumGauge::distance($one, $two, $along, $scan),
            };
        }
        if ($parameters->kind === 'wall') {
            assert($one instanceof Datum);

            return (new WallGauge(self::mesh($workpiece, $one), $parameters->by === 'ball', $scan))->at(self::place($one));
        }
        assert($one instanceof Datum);

        return match ($parameters->kind) {
            'diameter' => DatumGauge::diameter($one, $scan),
            'radius' => DatumGauge::radius($one, $scan),
            'opening' => $one->made === RimGauge::MADE ? self::rim($workpiece, self::clicked($parameters->of[0]))->opening() : SurfaceGauge::opening(self::mesh($workpiece, $one), $one, $scan),
            default => $one->made === RimGauge::MADE ? throw InvalidParameter::of('of', "is a rim; {$parameters->kind} is that of a wall: fit a cylinder") : SurfaceGauge::form(self::mesh($workpiece, $one), $one, $parameters->kind, $scan),
        };
    }

    /** @return array{float, float, float} */
    private static function place(Datum $datum): array
    {
        return in_array($datum->kind, ['point', 'sphere'], true) ? $datum->origin : throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; name a point, or a place of three numbers");
    }

    /**
     * The rim nearest to a place, on the body nearest to it.
     *
     * @param  array{float, float, float}  $at
     *
     * @throws UnsuitableInput when there is none
     */
    private static function rim(Workpiece $workpiece, array $at): RimGauge
    {
        return RimGauge::at(self::mesh($workpiece, new Datum('', '', 'point', $at)), $at);
    }

    /**
     * @param  string|array<mixed>  $one  a place that was clicked
     * @return array{float, float, float}
     */
    private static function clicked(string|array $one): array
    {
        [$x, $y, $z] = array_map(floatval(...), is_array($one) && is_array($one['at'] ?? null) ? array_values($one['at']) : [0.0, 0.0, 0.0]);

        return [$x, $y, $z];
    }

    /** @see body() */
    private static function mesh(Workpiece $workpiece, Datum|Body|null $of): TriangleMesh
    {
        return self::body($workpiece, $of)->placedMesh();
    }

    /** The mesh that a datum was made on, or the body itself; of several where nothing says which, the one nearest to the datum. */
    private static function body(Workpiece $workpiece, Datum|Body|null $of): Body
    {
        $meshes = $workpiece->meshes();
        if ($of instanceof Body) {
            $meshes = $of->isMesh() ? [$of] : throw InvalidParameter::of('of', "names \"$of->name\", which is no mesh");
        } elseif ($of !== null && $of->bodyId !== null) {
            $own = array_filter($meshes, fn (Body $body) => $body->id === $of->bodyId);
            $meshes = $own === [] ? $meshes : array_values($own);
        }
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to measure: fuse the passes first, or bring in a mesh.');
        }
        if (count($meshes) > 1 && ! $of instanceof Datum) {
            throw UnsuitableInput::because('There are '.count($meshes).' bodies; choose the one that is measured.');
        }

        return count($meshes) === 1 || ! $of instanceof Datum ? $meshes[0] : self::nearest($meshes, $of->origin);
    }

    /**
     * @param  non-empty-list<Body>  $meshes
     * @param  array{float, float, float}  $place
     */
    private static function nearest(array $meshes, array $place): Body
    {
        $distances = array_map(function (Body $body) use ($place): float {
            $positions = $body->placed()->positions;

            return $positions === [] ? INF : min(array_map(fn (array $vertex) => Vector3::length(Vector3::minus($vertex, $place)), array_chunk($positions, 3)));
        }, $meshes);

        return $meshes[(int) array_search(min($distances), $distances, true)];
    }
}
