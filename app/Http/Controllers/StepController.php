<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Http\Border\Shapes;
use App\Models\Project;
use App\Models\Step;
use App\Models\Upload;
use App\Models\User;
use App\Services\Ledger;
use App\Services\StepSweep;
use Emberstone\Core\Exchange\TextColumns;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** Steps of a project: adding, trying, stopping, undoing, running again. */
final class StepController
{
    public function __construct(private readonly Ledger $ledger)
    {
    }

    public function store(Request $request, Project $project): JsonResponse
    {
        $data = Border::sent($request);
        $parameters = $data['parameters'] ?? [];
        if ($data['operation'] === 'import') {
            $this->checkUploads($project, $parameters);
        }
        $isTrial = ($data['trial'] ?? false) && $data['operation'] !== 'import';
        $key = $data['key'] ?? null;
        $step = $isTrial
            ? $this->ledger->try($project, $this->user($request), $data['operation'], $parameters, $data['on'] ?? null)
            : ($this->ledger->asked($project, $key) ?? $this->ledger->add($project, $this->user($request), $data['operation'], $parameters, $data['on'] ?? null, key: $key));

        return response()->json(['id' => $step->id], 202);
    }

    /** @param  array<string, mixed>  $parameters */
    private function checkUploads(Project $project, array $parameters): void
    {
        validator($parameters, Border::import()->rules(), ['uploads.*' => 'Name the uploads of this project to import.'])->validate();
        if (Upload::query()->where('project_id', $project->id)->whereIn('id', $parameters['uploads'])->count() !== count($parameters['uploads'])) {
            throw ValidationException::withMessages(['uploads' => 'Name the uploads of this project to import.']);
        }
        foreach ($parameters['columns'] ?? [] as $columns) {
            TextColumns::of($columns);
        }
    }

    public function stop(Project $project, Step $step, StepSweep $sweep): JsonResponse
    {
        if (! $sweep->endWaiting($step)) {
            $step->newQuery()->whereKey($step->id)->whereIn('state', Step::ALIVE)->update(['stop_asked' => true]);
        }

        return response()->json(['id' => $step->id], 202);
    }

    /** Passes and bodies before a step and after it, to look at one and the other. */
    public function states(Project $project, Step $step): JsonResponse
    {
        abort_unless($step->snapshot !== null, 404, 'This step has not ended yet.');
        $shown = function (array $snapshot): array {
            foreach ($snapshot['passes'] as $k => $pass) {
                $snapshot['passes'][$k]['nth'] = $k;
            }

            return ['passes' => $snapshot['passes'], 'bodies' => $snapshot['bodies']];
        };

        return response()->json(Shapes::of('StepStates')->only(['before' => $shown($step->stateBefore()), 'after' => $shown($step->snapshot)]));
    }

    public function keep(Project $project, Step $step): JsonResponse
    {
        $this->ledger->keep($project, $step);

        return response()->json(['id' => $step->id]);
    }

    public function forgetTrials(Project $project): JsonResponse
    {
        $this->ledger->forgetTrials($project);

        return response()->json(null, 204);
    }

    public function again(Request $request, Project $project, Step $step): JsonResponse
    {
        $data = Border::sent($request);
        abort_unless(in_array($step->state, ['failed', 'stopped'], true), 409, 'Only a failed or stopped step can run again.');

        return response()->json(['id' => $this->ledger->again($step, $this->user($request), $data['parameters'] ?? null, $data['on'] ?? null)->id], 202);
    }

    public function rerun(Request $request, Project $project, Step $step): JsonResponse
    {
        abort_unless($step->state === 'done', 409, 'Only a step that is done can be run again with other parameters.');
        $data = Border::sent($request);

        return response()->json(['id' => $this->ledger->rerun($step, $this->user($request), $data['parameters'] ?? [], array_key_exists('on', $data) ? $data['on'] : $step->works_on)->id], 202);
    }

    public function undo(Request $request, Project $project): JsonResponse
    {
        $to = Border::sent($request)['to'] ?? null;
        $step = $to === null ? null : Step::query()->where('project_id', $project->id)->whereKey($to)->firstOrFail();
        $step === null ? $this->ledger->undo($project) : $this->ledger->undoTo($project, $step);

        return response()->json(['ok' => true]);
    }

    public function redo(Project $project): JsonResponse
    {
        $this->ledger->redo($project);

        return response()->json(['ok' => true]);
    }

    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
