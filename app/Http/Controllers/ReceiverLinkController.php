<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Project;
use App\Models\ReceiverLink;
use App\Models\ReceiverVisit;
use App\Models\Setting;
use App\Services\Handover;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** Links by which receivers see what was handed over to them: who works on a project makes them, sees who came, and closes them. */
final class ReceiverLinkController
{
    /** Visits told of a link, the latest first. */
    private const VISITS_TOLD = 50;

    /** All links of a project, closed ones too, with who came by them. */
    public function index(Project $project): JsonResponse
    {
        return response()->json(self::list($project));
    }

    /** Its address is told here and never again: only a hash of it is kept. */
    public function store(Request $request, Project $project): JsonResponse
    {
        abort_unless(Setting::isOn(Setting::RECEIVER_LINKS), 422, 'Links for receivers are turned off on this installation; whoever looks after it can turn them on, on the page of their account.');
        $data = Border::sent($request);
        $row = array_column($project->snapshot()['artefacts'], null, 'id')[$data['artefact']] ?? null;
        $by = Handover::stepOf($project, $data['artefact']);
        abort_if($row === null || $by === null || $row['kind'] !== HandedOver::KIND, 404, 'That delivery is not there any more; hand over again.');
        $token = ReceiverLink::newToken();
        ReceiverLink::query()->create([
            'project_id' => $project->id, 'step_id' => $by->id, 'artefact' => $data['artefact'], 'token_hash' => ReceiverLink::hashOf($token),
            'made_by' => $request->user()->name ?? '', 'expires_at' => now()->addDays($data['days']),
        ]);

        return response()->json(['url' => url("/received/$token")] + self::list($project), 201);
    }

    /** Ends a link at once; what was looked at through it stays on record. */
    public function close(Project $project, ReceiverLink $link): JsonResponse
    {
        if ($link->closed_at === null) {
            $link->update(['closed_at' => now()]);
        }

        return response()->json(self::list($project));
    }

    /** @return array{allowed: bool, links: list<array<string, mixed>>} the latest first */
    private static function list(Project $project): array
    {
        $links = ReceiverLink::query()->where('project_id', $project->id)->withCount('visits')->latest()->latest('id')->limit(200)->get();

        return ['allowed' => Setting::isOn(Setting::RECEIVER_LINKS), 'links' => array_values($links->map(fn (ReceiverLink $link) => [
            'id' => $link->id, 'artefact' => $link->artefact, 'state' => $link->state(), 'madeBy' => $link->made_by, 'madeAt' => $link->created_at->toIso8601String(), 'expiresAt' => $link->expires_at->toIso8601String(),
            'visits' => (int) $link->getAttribute('visits_count'),
            'latest' => array_values($link->visits()->latest('id')->limit(self::VISITS_TOLD)->get()->map(fn (ReceiverVisit $visit) => ['at' => $visit->created_at->toIso8601String(), 'took' => $visit->took, 'address' => $visit->address, 'browser' => $visit->browser])->all()),
        ])->all())];
    }
}
