<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Http\Border\Shapes;
use App\Models\Project;
use App\Models\Step;
use App\Models\User;
use App\Services\BlobStore;
use App\Services\DiskSpace;
use App\Services\Ledger;
use App\Services\OneMoment;
use App\Services\StepPace;
use App\Services\StepSweep;
use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Deliver\NextStep;
use Emberstone\Core\Deliver\ReadyCard;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Operation\Datum;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;

/** Projects: the list, one with all that the window shows of it, and changes to its name, brief and tray. */
final class ProjectController
{
    /** A window asks every 5 s while nothing runs; one that has not for this long is closed, or its machine asleep. */
    private const HERE_SECONDS = 15;

    public function index(Request $request, BlobStore $blobs): JsonResponse
    {
        $user = $request->user();
        assert($user instanceof User);

        return response()->json(Project::visibleTo($user)->with(['owner', 'head'])->orderByDesc('updated_at')->get()->map(function (Project $project) use ($blobs): array {
            $snapshot = $project->snapshot();
            $body = $snapshot['bodies'] === [] ? null : $snapshot['bodies'][count($snapshot['bodies']) - 1];
            $cards = self::readyCards($project, $snapshot);
            $lines = $body !== null && isset($cards[$body['id']]) ? $cards[$body['id']] : self::emptyCard($project, $snapshot);

            $shown = $body ?? $snapshot['passes'][0] ?? null;

            return [
                'id' => $project->id, 'name' => $project->name, 'owner' => $project->owner->name, 'brief' => $project->brief, 'updatedAt' => $project->updated_at?->toIso8601String(),
                'passes' => count($snapshot['passes']), 'points' => array_sum(array_column($snapshot['passes'], 'kept')), 'faces' => $body['faces'] ?? 0,
                'lengthMm' => $snapshot['lengthMm'] ?? null,
                'ready' => count(array_filter($lines, fn (array $line) => $line['state'] === 'good')), 'lines' => count($lines),
                'readyBodies' => count(array_filter($cards, ReadyCard::isReady(...))), 'bodies' => count($cards),
                'archived' => $project->archived,
                'picture' => $shown === null ? null : ['blob' => $shown['blob'], 'transform' => $shown['transform'], 'isStored' => is_file($blobs->picturePath($shown['blob']))],
            ];
        }));
    }

    public function store(Request $request): JsonResponse
    {
        $data = Border::sent($request);
        $user = $request->user();
        assert($user instanceof User);
        $project = $user->projects()->create(['name' => $data['name'], 'brief' => Brief::fromArray($data['brief'] ?? [])->toArray()]);

        return response()->json(['id' => $project->id], 201);
    }

    /** All that the window shows, in one answer; polled while something runs. */
    public function show(Request $request, Project $project, Ledger $ledger, StepSweep $sweep, DiskSpace $disk): JsonResponse
    {
        $sweep($project);
        Cache::put(self::hereKey($project, $request->user()?->id), true, self::HERE_SECONDS);

        return response()->json(OneMoment::of(fn () => $this->state($request, $project->refresh(), $ledger, $disk)));
    }

    /** @return array<string, mixed> */
    private function state(Request $request, Project $project, Ledger $ledger, DiskSpace $disk): array
    {
        $snapshot = $project->snapshot();
        // Steps of an earlier version said less of a datum.
        $snapshot['datums'] = array_map(fn (array $datum) => Datum::fromArray($datum)->toArray(), $snapshot['datums']);
        $cards = self::readyCards($project, $snapshot);
        // Unless another is chosen, the ready card speaks of the body made last, wherever it stands in the tray.
        $last = array_key_last($cards);
        foreach (['passes', 'bodies', 'datums', 'artefacts'] as $kind) {
            foreach ($snapshot[$kind] as $k => $item) {
                $snapshot[$kind][$k]['name'] = $project->labels[$item['id']] ?? $item['name'];
                // Passes are coloured by the order they came in, wherever they stand in the tray.
                $snapshot[$kind][$k]['nth'] = $k;
                $snapshot[$kind][$k]['locked'] = in_array($item['id'], $project->locked, true);
                if ($kind === 'bodies' && isset($project->looks[$item['id']])) {
                    $snapshot[$kind][$k]['look'] = $project->looks[$item['id']];
                }
            }
            // A stable sort: what nobody has placed by hand keeps its order behind the rest.
            $rank = array_flip($project->tray_order);
            usort($snapshot[$kind], fn (array $a, array $b) => ($rank[$a['id']] ?? PHP_INT_MAX) <=> ($rank[$b['id']] ?? PHP_INT_MAX));
        }

        $steps = array_map($this->step(...), $ledger->line($project));

        return Shapes::of('ProjectState')->only([
            'project' => ['id' => $project->id, 'name' => $project->name, 'brief' => $project->brief, 'scaleConfirmed' => $project->scaleConfirmed(), 'members' => MemberController::list($project), 'here' => self::here($request, $project), 'owner' => $project->owner->name, 'isOwner' => $project->owner_id === $request->user()?->id],
            'snapshot' => $snapshot,
            'steps' => $steps,
            'trial' => $this->trial($ledger->trial($project)),
            'capture' => CaptureController::open($project)?->toState(),
            'readyCards' => $cards,
            'readyCard' => $last === null ? self::emptyCard($project, $snapshot) : $cards[$last],
            'readyBody' => $last,
            'next' => NextStep::of(count($snapshot['passes']), count($snapshot['datums']), array_values(array_unique(array_column(array_filter($steps, fn (array $step) => $step['state'] === 'done'), 'operation'))), $last === null ? null : $cards[$last]),
            'diskUsed' => $disk->used() >= DiskSpace::LITTLE ? round($disk->used(), 2) : null,
            'canUndo' => $project->head_step_id !== null, 'canRedo' => $project->steps()->where('parent_id', $project->head_step_id)->where('state', 'set-aside')->exists(),
        ]);
    }

    /** @return list<string> names of the others who have the project open: their windows have asked for it lately */
    private static function here(Request $request, Project $project): array
    {
        $others = array_filter([$project->owner, ...$project->members()->get()->all()], fn (User $user) => $user->id !== $request->user()?->id && Cache::has(self::hereKey($project, $user->id)));

        return array_map(fn (User $user) => $user->name, array_values($others));
    }

    private static function hereKey(Project $project, ?int $user): string
    {
        return "here $project->id $user";
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @return array<string, list<array{key: string, label: string, state: string, figure: string, fix: string|null}>> by id of the mesh, in the order they were made
     */
    private static function readyCards(Project $project, array $snapshot): array
    {
        $cards = [];
        foreach ($snapshot['bodies'] as $body) {
            if (isset($body['figures'])) {
                $cards[$body['id']] = ReadyCard::lines($project->briefValue(), $body['figures'], $project->scaleConfirmed(), $snapshot['oriented']);
            }
        }

        return $cards;
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @return list<array{key: string, label: string, state: string, figure: string, fix: string|null}>
     */
    private static function emptyCard(Project $project, array $snapshot): array
    {
        return ReadyCard::lines($project->briefValue(), null, $project->scaleConfirmed(), $snapshot['oriented']);
    }

    /** @return array<string, mixed> */
    private function step(Step $step): array
    {
        return [
            'id' => $step->id, 'operation' => $step->operation, 'state' => $step->state, 'progress' => $step->progress, 'doing' => $step->doing,
            'figures' => $step->figures, 'message' => $step->message, 'seconds' => $step->seconds, 'stopAsked' => $step->stop_asked,
            'by' => $step->takenBy(), 'isMine' => $step->user_id === Auth::id(), 'isTheirs' => $step->user_id !== null && $step->user_id !== Auth::id(),
            'on' => $step->works_on, 'follows' => count($step->follow_ups),
            'parameters' => in_array($step->operation, Ledger::ARRIVALS, true) ? [] : $step->parameters, 'begunAt' => $step->begun_at?->toIso8601String(), 'expected' => $step->state === 'running' && $step->estimated !== null ? app(StepPace::class)->range($step->operation, $step->estimated) : null,
        ];
    }

    /** @return array<string, mixed>|null what was tried, and how passes and bodies would be */
    private function trial(?Step $step): ?array
    {
        if ($step === null) {
            return null;
        }
        $snapshot = $step->state === 'done' ? $step->snapshot : null;

        return ['step' => $this->step($step), 'passes' => $snapshot['passes'] ?? null, 'bodies' => $snapshot['bodies'] ?? null, 'artefacts' => $snapshot['artefacts'] ?? null];
    }

    public function update(Request $request, Project $project): JsonResponse
    {
        $data = Border::sent($request);
        if (isset($data['brief'])) {
            $data['brief'] = Brief::fromArray([...$project->brief, ...$data['brief']])->toArray();
        }
        if (isset($data['labels'])) {
            $data['labels'] = [...$project->labels, ...$data['labels']];
        }
        if (isset($data['looks'])) {
            array_map(Look::from(...), $data['looks']);
            $data['looks'] = [...$project->looks, ...$data['looks']];
        }
        $project->update($data);

        return response()->json(['id' => $project->id]);
    }

    public function destroy(Request $request, Project $project, BlobStore $blobs): JsonResponse
    {
        abort_unless($project->owner_id === $request->user()?->id, 403, 'Only the owner can delete a project.');
        $project->discard($blobs);

        return response()->json(null, 204);
    }
}
