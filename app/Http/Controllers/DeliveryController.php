<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Services\Workbench;
use Emberstone\Core\Deliver\Delivery;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

final class DeliveryController
{
    public function download(Request $request, Project $project, string $body, Workbench $workbench): BinaryFileResponse
    {
        $data = $request->validate(['format' => ['required', Rule::in(['stl', 'obj', 'ply', '3mf', 'glb', 'e57'])]]);
        $row = array_column($project->snapshot()['bodies'], null, 'id')[$body] ?? null;
        abort_if($row === null, 404, 'That body is not there any more.');
        ini_set('memory_limit', '2G');
        $folder = storage_path('deliveries');
        is_dir($folder) || mkdir($folder, 0770, true);
        $path = "$folder/".bin2hex(random_bytes(8)).'.'.$data['format'];
        Delivery::write($path, $workbench->body($row)->placed(), $project->briefValue());
        $name = trim((string) preg_replace('/[^\p{L}\p{N}._ ,-]+/u', '_', $project->labels[$body] ?? $row['name'])).'.'.$data['format'];

        return response()->download($path, $name)->deleteFileAfterSend();
    }
}
