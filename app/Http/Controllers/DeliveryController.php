<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Project;
use App\Services\Handover;
use App\Services\ProjectFile;
use App\Services\Workbench;
use Emberstone\Core\Deliver\Delivery;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Emberstone\Core\Deliver\HeightPictures;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Deliver\StepModel;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Str;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\HeaderUtils;

/** Files of bodies and drawings of sections, as the brief asks for them. */
final class DeliveryController
{
    public function download(Request $request, Project $project, string $body, Workbench $workbench): BinaryFileResponse
    {
        $data = Border::sent($request);
        $row = array_column($project->snapshot()['bodies'], null, 'id')[$body] ?? null;
        abort_if($row === null, 404, 'That body is not there any more.');
        ini_set('memory_limit', '2G');
        $folder = storage_path('deliveries');
        is_dir($folder) || mkdir($folder, 0770, true);
        $path = "$folder/".bin2hex(random_bytes(8)).'.'.$data['format'];
        $held = $workbench->body($row);
        $placed = $held->placed();
        $name = $project->labels[$body] ?? $row['name'];
        $frame = $this->frame($project, $data['frame'] ?? null);
        if ($data['format'] === 'step') {
            abort_unless($placed instanceof TriangleMesh, 422, 'A cloud cannot be written as STEP: fuse it to a surface first.');
            file_put_contents($path, $this->stepModel($name, $held, $placed, $project, $workbench, $frame));
        } else {
            Delivery::write($path, $placed, $project->briefValue(), $frame, isset($project->looks[$body]) ? Look::from($project->looks[$body]) : null);
        }

        return response()->download($path, self::fileName(self::ofProject($project, $name), $data['format']))->deleteFileAfterSend();
    }

    /** The whole project as one file. */
    public function project(Project $project, ProjectFile $file): BinaryFileResponse
    {
        ini_set('memory_limit', '2G');
        set_time_limit(0);
        $folder = storage_path('deliveries');
        is_dir($folder) || mkdir($folder, 0770, true);
        $path = "$folder/".bin2hex(random_bytes(8)).'.'.ProjectFile::ENDING;
        $file->write($project, $path);

        return response()->download($path, ProjectFile::nameOf($project))->deleteFileAfterSend();
    }

    /** A body with its shapes, datums and sections, under the names that were given to them. */
    private function stepModel(string $name, Body $body, TriangleMesh $placed, Project $project, Workbench $workbench, ?Datum $frame): string
    {
        $snapshot = $project->snapshot();
        $named = fn (array $row) => ['name' => $project->labels[$row['id']] ?? $row['name']] + $row;
        $artefacts = array_map(fn (array $row) => $workbench->artefact($named($row)), array_values(array_filter($snapshot['artefacts'], fn (array $row) => ($row['bodyId'] ?? null) === $body->id)));
        $datums = array_map(fn (array $row) => Datum::fromArray($named($row)), $snapshot['datums']);
        try {
            return StepModel::of($name, $body, $placed, $artefacts, array_values($datums), $project->briefValue(), $frame)->bytes;
        } catch (UnsuitableInput $refused) {
            abort(422, $refused->getMessage());
        }
    }

    /** Formats of what was handed over: its report, and one zip of all. */
    public const OF_DELIVERIES = ['pdf' => 'application/pdf', 'html' => 'text/html', 'zip' => 'application/zip'];

    /** A section as a drawing, DXF or SVG, or as points, or heights as a picture or points, in the unit of the brief; the report of what was handed over, or all of that as a zip. */
    public function drawing(Request $request, Project $project, string $artefact, Workbench $workbench, Handover $handover): Response
    {
        $data = Border::sent($request);
        $row = array_column($project->snapshot()['artefacts'], null, 'id')[$artefact] ?? null;
        if (isset(self::OF_DELIVERIES[$data['format']])) {
            $by = Handover::stepOf($project, $artefact);
            abort_if($row === null || $by === null || $row['kind'] !== HandedOver::KIND, 404, 'That is not there any more, or has no such file.');
            ini_set('memory_limit', '2G');
            $name = ($project->labels[$artefact] ?? $row['name']).($data['format'] === 'zip' ? '' : ', report');

            return self::file($handover->bytes($by, HandedOver::of($workbench->artefact($row)), $data['format']), self::OF_DELIVERIES[$data['format']], self::fileName($name, $data['format']));
        }
        $isDrawing = in_array($data['format'], ['dxf', 'svg', 'csv'], true);
        abort_if($row === null || $row['kind'] !== ($isDrawing ? SectionDrawing::KIND : HeightPictures::KIND), 404, 'That is not there any more, or has no such file.');
        $held = $workbench->artefact($row);
        $unit = $project->briefValue()->unit;
        $name = $project->labels[$artefact] ?? $row['name'];
        $side = $isDrawing ? '' : $data['side'] ?? HeightPictures::sides($held)[0];
        abort_if(! $isDrawing && ! in_array($side, HeightPictures::sides($held), true), 404, 'That side was not drawn.');
        [$bytes, $type] = match ($data['format']) {
            'dxf' => [Dxf::of(SectionDrawing::of($held, $unit)), 'image/vnd.dxf'],
            'svg' => [Svg::of(SectionDrawing::of($held, $unit)), 'image/svg+xml'],
            'csv' => [SectionDrawing::csv($held, $unit), 'text/csv'],
            'png' => [HeightPictures::png($held, $side, $unit), 'image/png'],
            default => [self::points($held, $side, $unit), 'text/plain'],
        };

        return self::file($bytes, $type, self::fileName(self::ofProject($project, $isDrawing ? $name : "$name, $side"), $data['format']));
    }

    public static function file(string $bytes, string $type, string $name): Response
    {
        return response($bytes, 200, ['Content-Type' => $type, 'Content-Disposition' => HeaderUtils::makeDisposition('attachment', $name, Str::ascii($name))]);
    }

    private static function points(Artefact $heights, string $side, Unit $unit): string
    {
        $path = tempnam(sys_get_temp_dir(), 'heights').'.xyz';
        try {
            Formats::write($path, HeightPictures::points($heights, $side)->scaled(1.0 / $unit->inMillimetres()));

            return (string) file_get_contents($path);
        } finally {
            @unlink($path);
            @unlink(substr($path, 0, -4));
        }
    }

    /** A thing's name behind that of its project, for whoever has the files of several; not twice where it begins with it. */
    private static function ofProject(Project $project, string $name): string
    {
        return Str::startsWith(Str::lower($name), Str::lower($project->name)) ? $name : "$project->name, ".(ctype_upper(substr($name, 0, 1)) && ctype_lower(substr($name, 1, 1)) ? Str::lcfirst($name) : $name);
    }

    public static function fileName(string $name, string $format): string
    {
        return Names::forFile($name).".$format";
    }

    private function frame(Project $project, ?string $id): ?Datum
    {
        if ($id === null) {
            return null;
        }
        $row = array_column($project->snapshot()['datums'], null, 'id')[$id] ?? null;
        abort_if($row === null || $row['kind'] !== 'frame', 404, 'That frame is not there any more; choose another.');

        return Datum::fromArray($row);
    }
}
