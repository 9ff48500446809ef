<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Models\Step;
use App\Services\Ledger;
use App\Services\Workbench;
use Emberstone\Core\Deliver\FileSizes;
use Emberstone\Core\Geometry\BoundingBox;
use Illuminate\Http\JsonResponse;

/** One pass or body of a project by itself. */
final class ItemController
{
    /** Its facts: size as it stands, counts, area, volume, evidence, how large its files would be, and which steps made and changed it. */
    public function facts(Project $project, string $item, Workbench $workbench, Ledger $ledger): JsonResponse
    {
        $snapshot = $project->snapshot();
        $pass = array_column($snapshot['passes'], null, 'id')[$item] ?? null;
        $body = array_column($snapshot['bodies'], null, 'id')[$item] ?? null;
        $row = $pass ?? $body;
        abort_if($row === null, 404, 'That is not there any more.');
        ini_set('memory_limit', '2G');
        $geometry = $pass !== null ? $workbench->pass($pass)->placed() : $workbench->body($row)->placed();
        $box = $geometry->positions === [] ? null : BoundingBox::of($geometry->positions);
        $figures = $body['figures'] ?? null;

        return response()->json([
            'sizeMm' => $box === null ? null : array_map(fn (int $k) => $box->max[$k] - $box->min[$k], [0, 1, 2]),
            'points' => $row['points'], 'kept' => $pass['kept'] ?? null, 'faces' => $body['faces'] ?? null, 'quads' => $body['quads'] ?? null,
            'residualMm' => $pass['residual'] ?? null, 'overlap' => $pass['overlap'] ?? null,
            'areaMm2' => $figures['area'] ?? null, 'volumeMm3' => $figures['volume'] ?? null, 'pieces' => $figures['pieces'] ?? null, 'genus' => $figures['genus'] ?? null,
            'measured' => $figures['measured'] ?? null,
            'fileBytes' => (object) ($pass !== null ? [] : FileSizes::of($geometry, sys_get_temp_dir())),
            ...$this->history($project, $item, $ledger),
        ]);
    }

    /** @return array{madeBy: int|null, changedBy: list<int>} steps of the line, oldest first */
    private function history(Project $project, string $item, Ledger $ledger): array
    {
        $made = $was = null;
        $changed = [];
        foreach ($ledger->line($project) as $step) {
            if ($step->state !== 'done') {
                continue;
            }
            $snapshot = Step::query()->whereKey($step->id)->first(['snapshot'])->snapshot ?? Step::EMPTY_SNAPSHOT;
            $is = array_column([...$snapshot['passes'], ...$snapshot['bodies']], null, 'id')[$item] ?? null;
            if ($is !== null && $was === null) {
                $made = $step->id;
            } elseif ($is !== null && ([$is['blob'], $is['mask'] ?? null, $is['transform']] !== [$was['blob'], $was['mask'] ?? null, $was['transform']])) {
                $changed[] = $step->id;
            }
            $was = $is;
        }

        return ['madeBy' => $made, 'changedBy' => $changed];
    }
}
