<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Project;
use App\Services\BlobStore;
use App\Services\StepPace;
use App\Services\Workbench;
use Emberstone\Core\Datums\FitConstraint;
use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Datums\FrameCheck;
use Emberstone\Core\Datums\KindOfShape;
use Emberstone\Core\Datums\SurfaceSeed;
use Emberstone\Core\Deliver\Measuring\DatumGauge;
use Emberstone\Core\Deliver\Measuring\MeasureParameters;
use Emberstone\Core\Deliver\Measuring\RimGauge;
use Emberstone\Core\Deliver\Measuring\ScanError;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Orient\Scale;
use Emberstone\Core\Orient\ScaleParameters;
use Emberstone\Core\Orient\SetFrame;
use Emberstone\Core\Orient\SetFrameParameters;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Register\PairPoints;
use Emberstone\Core\Register\PairPointsParameters;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Illuminate\Validation\ValidationException;

/** Short questions, answered within the request. */
final class PreviewController
{
    /** Vertices that are looked at where one more pick would help. */
    private const SOME = 500;

    public function estimate(Request $request, Project $project, Workbench $workbench, StepPace $pace): JsonResponse
    {
        $data = Border::sent($request);
        $operation = Catalogue::operation($data['operation']);
        $workpiece = $workbench->workpiece($project->snapshot(), $data['on'] ?? null, Step::given($data['operation']));

        $estimate = $operation->estimate($workpiece, Catalogue::parameters($data['operation'], $data['parameters'] ?? []));

        return response()->json([...get_object_vars($estimate), 'seconds' => $pace->range($data['operation'], $estimate->seconds)]);
    }

    /** To the area that spreads from a face, or to the faces named; reads only those that it needs straight from the blob. */
    public function datum(Request $request, Project $project, BlobStore $blobs): JsonResponse
    {
        $data = Border::sent($request);
        if (! isset($data['ranges']) && ! isset($data['face'], $data['angle'])) {
            throw ValidationException::withMessages(['face' => 'Pick a place on the body, or paint over one.']);
        }
        [$blob, $placement] = $this->place($project, $blobs, $data);
        if (isset($data['hold'])) {
            FitConstraint::check($data['hold']);
        }
        $held = isset($data['hold']) ? FitConstraint::of($data['hold'], array_map(Datum::fromArray(...), $project->snapshot()['datums']), $data['kind']) : null;
        if (isset($data['ranges'])) {
            $ranges = (new SelectionParameters([['target' => $data['body'], 'ranges' => $data['ranges']]]))->ranges($data['body'], $blob->head['faces'] ?? 0) ?? [];
            $fit = FitDatum::brushed($blob, $placement, $ranges, $data['kind'], 'preview', preview: true, held: $held);
        } else {
            $fit = FitDatum::spread($blob, $placement, $data['face'], $data['kind'], (float) $data['angle'], 'preview', preview: true, held: $held);
        }

        return response()->json([...$fit, 'datum' => $fit['datum']->toArray()]);
    }

    /** Which kind of datum suits the surface around a face. */
    public function kind(Request $request, Project $project, BlobStore $blobs): JsonResponse
    {
        $data = Border::sent($request);
        [$blob, $placement] = $this->place($project, $blobs, $data);

        return response()->json(KindOfShape::around($blob, $placement, $data['face'], (float) $data['angle']));
    }

    /** What is measured between datums and clicks on the part: the likely kind, and the value where it takes but a moment. */
    public function measure(Request $request, Project $project, BlobStore $blobs, Workbench $workbench): JsonResponse
    {
        $data = Border::sent($request);
        $scan = $this->scanError($project, $blobs, $workbench);
        $datums = array_map(Datum::fromArray(...), $project->snapshot()['datums']);
        $things = array_map(fn (mixed $one) => is_string($one) ? Datum::among($datums, 'of', $one) : $this->clicked($project, $blobs, $workbench, is_array($one) ? $one : []), $data['of']);
        $offered = DatumGauge::offered($things);
        $kind = $data['kind'] ?? $offered[0];
        [$measured, $why] = [null, null];
        try {
            $measured = match (true) {
                $kind === 'diameter' => DatumGauge::diameter($things[0], $scan),
                $kind === 'radius' => DatumGauge::radius($things[0], $scan),
                ! isset($things[1]) => null,
                $kind === 'distance' => DatumGauge::distance($things[0], $things[1], null, $scan),
                $kind === 'step' => DatumGauge::step($things[0], $things[1], $scan),
                $kind === 'position' => DatumGauge::position($things[0], $things[1], $scan),
                $kind === 'angle' => DatumGauge::angle($things[0], $things[1], $scan),
                default => null,
            };
        } catch (InvalidParameter $refused) {
            $why = $refused->getMessage();
        }

        return response()->json([
            'things' => array_map(fn (Datum $one) => ['fit' => $one->made === RimGauge::MADE ? RimGauge::MADE : $one->kind, 'words' => $one->rms > 0.0 ? $one->name.', fit error '.Format::mm($one->rms) : $one->name], $things), 'offered' => $offered, 'kind' => $kind,
            'measured' => $measured === null ? null : ['words' => $scan->withScale($measured)->inWords(), 'line' => $measured->line], 'why' => $why,
        ]);
    }

    /** What the scan adds to the error of a measurement, as the step will find it. */
    private function scanError(Project $project, BlobStore $blobs, Workbench $workbench): ScanError
    {
        $snapshot = $project->snapshot();
        $edges = [0.0];
        foreach ($snapshot['bodies'] as $row) {
            // Only what was made of passes here tells how many of them saw it.
            $isMade = $row['kind'] === 'mesh' && isset($row['figures']['area']) && isset(OpenBlob::file($blobs->path($row['blob']))->head['sections']['support']);
            $edges[] = $isMade ? ScanError::edge($row['figures']['area'], $row['faces']) : 0.0;
        }

        return new ScanError(array_map($workbench->pass(...), $snapshot['passes']), max($edges), $snapshot['scaleError'] ?? null, array_map(Datum::fromArray(...), $snapshot['datums']));
    }

    /**
     * What lies around a click: what was said, or what suits best; the place itself where nothing does.
     *
     * @param  array<array-key, mixed>  $click
     */
    private function clicked(Project $project, BlobStore $blobs, Workbench $workbench, array $click): Datum
    {
        $valid = validator($click, ['body' => ['required', 'uuid'], 'face' => ['required', 'integer', 'min:0'], 'at' => ['required', 'array', 'size:3'], 'at.*' => ['required', 'numeric'], 'fit' => ['nullable', Rule::in(MeasureParameters::FITS)]])->validate();
        [$blob, $placement] = $this->place($project, $blobs, $valid);
        $at = array_map(floatval(...), array_values($valid['at']));
        if (($valid['fit'] ?? null) === RimGauge::MADE) {
            $body = $workbench->body(array_column($project->snapshot()['bodies'], null, 'id')[$valid['body']]);

            return RimGauge::at($body->placedMesh(), [$at[0], $at[1], $at[2]])->circle;
        }
        // What the surface is off by there, the step finds: it takes more than a moment.
        $point = new Datum('', 'Place', 'point', [$at[0], $at[1], $at[2]], points: 1, made: 'picked');
        try {
            $fit = $valid['fit'] ?? KindOfShape::around($blob, $placement, (int) $valid['face'], SurfaceSeed::ANGLE)['kind'];

            return $fit === 'point' ? $point : FitDatum::spread($blob, $placement, (int) $valid['face'], $fit, SurfaceSeed::ANGLE, ucfirst($fit), preview: true)['datum'];
        } catch (UnsuitableInput $refused) {
            return isset($valid['fit']) ? throw $refused : $point;
        }
    }

    /**
     * @param  array<string, mixed>  $data
     * @return array{OpenBlob, Placement} and from its coordinates to the project's
     */
    private function place(Project $project, BlobStore $blobs, array $data): array
    {
        $row = array_column($project->snapshot()['bodies'], null, 'id')[$data['body']] ?? null;
        abort_if($row === null, 404, 'That body is not there any more; pick again.');
        $blob = OpenBlob::file($blobs->path($row['blob']));
        if (isset($data['face']) && $data['face'] >= ($blob->head['faces'] ?? 0)) {
            throw UnsuitableInput::because('That face is not there any more; pick again.');
        }

        return [$blob, Workbench::placement($row)->from($blob->head['origin'])];
    }

    /** What picked pairs come to: the error of each, where the moving thing would stand, and where on it one more pick would help most. */
    public function pairs(Request $request, Project $project, BlobStore $blobs): JsonResponse
    {
        $data = Border::sent($request);
        PairPointsParameters::check($data['pairs']);
        $solved = PairPoints::solve($data['pairs']);
        $snapshot = $project->snapshot();
        $row = array_column([...$snapshot['passes'], ...$snapshot['bodies']], null, 'id')[$data['moving'] ?? ''] ?? null;
        $mask = isset($row['mask']) ? Blob::decodeMask($blobs->get($row['mask'])) : null;
        $places = $row === null ? [] : $this->some(OpenBlob::file($blobs->path($row['blob'])), Workbench::placement($row), $mask);

        return response()->json(['transform' => $solved['by']->matrix, 'residuals' => $solved['residuals'], 'hint' => $places === [] ? null : PairPoints::hint($data['pairs'], $places), 'caution' => $places === [] ? null : PairPoints::caution($data['pairs'], $places)]);
    }

    /**
     * Some vertices, evenly chosen from their list; none that were cut away.
     *
     * @return list<array{float, float, float}> in project coordinates
     */
    private function some(OpenBlob $blob, Placement $placement, ?string $mask): array
    {
        $placement = $placement->from($blob->head['origin']);
        $places = [];
        for ($v = 0, $n = $blob->head['points'] ?? 0, $every = intdiv($n, self::SOME) + 1; $v < $n; $v += $every) {
            if ($mask === null || $mask[$v] !== "\0") {
                $places[] = $placement->point($blob->position($v));
            }
        }

        return $places;
    }

    /** What known lengths come to: the factor that balances them and what each misses by. */
    public function lengths(Request $request, Project $project): JsonResponse
    {
        $known = (new ScaleParameters(lengths: Border::sent($request)['lengths']))->known();
        assert($known !== []);
        [$factor, $lengths] = Scale::balanced($known, array_map(Datum::fromArray(...), $project->snapshot()['datums']));

        return response()->json(['factor' => $factor, 'lengths' => $lengths]);
    }

    public function frame(Request $request, Project $project): JsonResponse
    {
        $parameters = Catalogue::parameters('set-frame', Border::sent($request));
        assert($parameters instanceof SetFrameParameters);
        $datums = array_map(Datum::fromArray(...), $project->snapshot()['datums']);
        $frame = SetFrame::frame($datums, $parameters);

        return response()->json(['transform' => SetFrame::withOffset($frame, $parameters)->matrix, 'locks' => $frame->locks, 'idle' => $frame->idle, 'plusMinus' => FrameCheck::ofLocks($frame->locks, $datums)]);
    }

    /** What the datums measure in the frame that is set. */
    public function check(Project $project): JsonResponse
    {
        return response()->json(FrameCheck::of(array_map(Datum::fromArray(...), $project->snapshot()['datums'])));
    }
}
