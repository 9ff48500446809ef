<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Project;
use App\Services\Workbench;
use Emberstone\Core\Deliver\Delivery;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Foundation\Names;
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
        Delivery::write($path, $workbench->body($row)->placed(), $project->briefValue(), $this->frame($project, $data['frame'] ?? null));

        return response()->download($path, self::fileName($project->labels[$body] ?? $row['name'], $data['format']))->deleteFileAfterSend();
    }

    /** A section as a drawing, DXF or SVG, in the unit of the brief. */
    public function drawing(Request $request, Project $project, string $artefact, Workbench $workbench): Response
    {
        $data = Border::sent($request);
        $row = array_column($project->snapshot()['artefacts'], null, 'id')[$artefact] ?? null;
        abort_if($row === null || $row['kind'] !== SectionDrawing::KIND, 404, 'That section is not there any more.');
        $drawing = SectionDrawing::of($workbench->artefact($row), $project->briefValue()->unit);

        return response($data['format'] === 'dxf' ? Dxf::of($drawing) : Svg::of($drawing), 200, [
            'Content-Type' => $data['format'] === 'dxf' ? 'image/vnd.dxf' : 'image/svg+xml',
            'Content-Disposition' => HeaderUtils::makeDisposition('attachment', $name = self::fileName($project->labels[$artefact] ?? $row['name'], $data['format']), Str::ascii($name)),
        ]);
    }

    private static function fileName(string $name, string $format): string
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
