<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use App\Models\Step;
use App\Models\User;
use Emberstone\Core\Recipe\Step as OperationStep;
use Illuminate\Database\UniqueConstraintViolationException;
use Illuminate\Support\Facades\DB;
use Symfony\Component\HttpKernel\Exception\ConflictHttpException;

/** The steps of a project: adding, undoing, redoing, running again. */
final class Ledger
{
    /** Steps that bring geometry in from outside the catalogue: they are not run again with other parameters. */
    public const ARRIVALS = ['import', 'capture'];

    public function __construct(private readonly StepQueue $queue)
    {
    }

    /**
     * Checks the parameters and puts the step in the queue.
     *
     * @param  array<string, mixed>  $parameters
     * @param  list<string>|null  $on  ids of what it works on; null: all that it can
     * @param  list<array{operation: string, parameters: array<string, mixed>, on: list<string>|null, origin: int}>  $then  steps that follow when this one is done
     * @param  bool  $trial  to be looked at first: it changes nothing until it is kept
     * @param  string|null  $key  of the request: the same one twice is one step
     * @param  int|null  $origin  the step that this one is run again of
     */
    public function add(Project $project, User $user, string $operation, array $parameters, ?array $on = null, array $then = [], bool $trial = false, ?string $key = null, ?int $origin = null): Step
    {
        if (! in_array($operation, self::ARRIVALS, true)) {
            // What older versions called otherwise.
            $asked = OperationStep::of($operation, $parameters, brief: ['title' => $project->name, 'scale' => $project->scaleConfirmed(), 'names' => $project->labels, 'looks' => $project->looks] + $project->briefValue()->toArray());
            $on ??= $asked->limits();
            $parameters = $asked->values;
        }
        // What is being tried is of a state that goes now, or of older values.
        $project->steps()->where('trial', true)->whereIn('state', Step::ALIVE)->update(['stop_asked' => true]);
        try {
            // A transaction of its own: a key that is taken must not spoil one that is open.
            $step = DB::transaction(fn () => $project->steps()->create(['user_id' => $user->id, 'operation' => $operation, 'parameters' => $parameters, 'works_on' => $on, 'follow_ups' => $then, 'trial' => $trial, 'request_key' => $key, 'origin_id' => $origin, 'made_as' => $origin === null ? null : Step::query()->whereKey($origin)->value('made_as')]));
        } catch (UniqueConstraintViolationException $taken) {
            return $this->asked($project, $key) ?? throw $taken;
        }
        // Asked when the row is there for all to see: whoever ends a step meanwhile looks for it, too.
        DB::afterCommit(fn () => $this->queue->next($project->id));

        return $step;
    }

    /** The step that a request with this key has asked for before. */
    public function asked(Project $project, ?string $key): ?Step
    {
        return $key === null ? null : $project->steps()->where('request_key', $key)->first();
    }

    /**
     * Carries a step out without putting it in the ledger. A project has one trial at a time; an older one goes.
     *
     * @param  array<string, mixed>  $parameters
     * @param  list<string>|null  $on
     */
    public function try(Project $project, User $user, string $operation, array $parameters, ?array $on = null): Step
    {
        $this->forgetTrials($project);

        return $this->add($project, $user, $operation, $parameters, $on, trial: true);
    }

    public function forgetTrials(Project $project): void
    {
        $trials = fn () => $project->steps()->where('trial', true);
        $trials()->whereIn('state', Step::ALIVE)->update(['stop_asked' => true]);
        $trials()->whereNotIn('state', Step::ALIVE)->delete();
    }

    /** Puts a trial into the ledger as if it had been applied; nothing is computed again. */
    public function keep(Project $project, Step $step): void
    {
        DB::transaction(function () use ($project, $step): void {
            $locked = $this->idle($project);
            $step->refresh();
            if (! $step->trial || $step->state !== 'done' || $step->parent_id !== $locked->head_step_id) {
                throw new ConflictHttpException('The project has changed since this was tried; try it again.');
            }
            $step->update(['trial' => false]);
            $locked->update(['head_step_id' => $step->id]);
        });
    }

    /** The trial that speaks of the project as it is now, finished or on its way. */
    public function trial(Project $project): ?Step
    {
        $trial = $project->steps()->where('trial', true)->where('stop_asked', false)->latest('id')->first();

        return $trial === null || (! in_array($trial->state, Step::ALIVE, true) && $trial->parent_id !== $project->head_step_id) ? null : $trial;
    }

    public function undo(Project $project): void
    {
        DB::transaction(function () use ($project): void {
            $locked = $this->idle($project);
            $head = $locked->head_step_id === null ? null : Step::query()->findOrFail($locked->head_step_id);
            if ($head === null) {
                throw new ConflictHttpException('There is nothing to undo.');
            }
            $head->update(['state' => 'set-aside']);
            $locked->update(['head_step_id' => $head->parent_id]);
        });
    }

    public function redo(Project $project): void
    {
        DB::transaction(function () use ($project): void {
            $locked = $this->idle($project);
            $next = Step::query()->where('project_id', $locked->id)->where('parent_id', $locked->head_step_id)->where('state', 'set-aside')->orderByDesc('id')->first();
            if ($next === null) {
                throw new ConflictHttpException('There is nothing to redo.');
            }
            $next->update(['state' => 'done']);
            $locked->update(['head_step_id' => $next->id]);
        });
    }

    /** Back to the state after a step; what came later is set aside and can be redone. */
    public function undoTo(Project $project, Step $step): void
    {
        DB::transaction(function () use ($project, $step): void {
            $locked = $this->idle($project);
            foreach ($this->since($locked, $step) as $later) {
                $later->update(['state' => 'set-aside']);
            }
            $locked->update(['head_step_id' => $step->id]);
        });
    }

    /**
     * A step that was carried out once more with other parameters, and all that came after it again. The old line is set aside.
     *
     * @param  array<string, mixed>  $parameters
     * @param  list<string>|null  $on
     */
    public function rerun(Step $step, User $user, array $parameters, ?array $on): Step
    {
        if (in_array($step->operation, self::ARRIVALS, true)) {
            throw new ConflictHttpException('What came in from outside cannot be run again: bring the files in once more, or capture again.');
        }
        OperationStep::of($step->operation, $parameters);

        return DB::transaction(function () use ($step, $user, $parameters, $on): Step {
            $project = $this->idle($step->project);
            $later = $this->since($project, $step);
            foreach ([$step, ...$later] as $old) {
                $old->update(['state' => 'set-aside']);
            }
            $project->update(['head_step_id' => $step->parent_id]);
            $then = array_map(fn (Step $old) => ['operation' => $old->operation, 'parameters' => $old->parameters, 'on' => self::still($old->works_on), 'origin' => $old->origin_id ?? $old->id], $later);

            return $this->add($project, $user, $step->operation, $parameters, $on, $then, origin: $step->origin_id ?? $step->id);
        });
    }

    /**
     * What a step of the old line works on in the new one: the same things under the same ids. A body that an older version made has another id when it is made anew; a step that
     * was meant for it is meant for all there are then.
     *
     * @param  list<string>|null  $on
     * @return list<string>|null
     */
    private static function still(?array $on): ?array
    {
        return $on === null || array_filter($on, Step::isLasting(...)) !== $on ? null : $on;
    }

    /**
     * The steps of the line after a step, oldest first.
     *
     * @return list<Step>
     */
    private function since(Project $project, Step $step): array
    {
        $later = [];
        for ($id = $project->head_step_id; $id !== $step->id; $id = $later[0]->parent_id) {
            if ($id === null) {
                throw new ConflictHttpException('That step is not in the line any more: somebody has undone it.');
            }
            array_unshift($later, Step::query()->findOrFail($id));
        }

        return $later;
    }

    /**
     * A failed or stopped step once more, with the same parameters or others; what was to follow it follows.
     *
     * @param  array<string, mixed>|null  $parameters  null for the same, on the same
     * @param  list<string>|null  $on
     */
    public function again(Step $step, User $user, ?array $parameters = null, ?array $on = null): Step
    {
        return $this->add($step->project, $user, $step->operation, $parameters ?? $step->parameters, $parameters === null ? $step->works_on : $on, $step->follow_ups, origin: $step->origin_id);
    }

    /**
     * The steps to show: the line that leads to the head, what was undone behind it, and what waits, runs or failed.
     *
     * @return list<Step>
     */
    public function line(Project $project): array
    {
        $columns = ['id', 'project_id', 'parent_id', 'operation', 'parameters', 'works_on', 'state', 'progress', 'doing', 'figures', 'message', 'seconds', 'stop_asked', 'follow_ups', 'created_at', 'begun_at', 'estimated', 'user_id', 'by_name'];
        $all = $project->steps()->with('user:id,name')->where('trial', false)->orderBy('id')->get($columns)->keyBy('id');
        $line = [];
        for ($id = $project->head_step_id; $id !== null && $all->has($id); $id = $all[$id]->parent_id) {
            array_unshift($line, $all[$id]);
        }
        for ($id = $project->head_step_id; ; $id = $next->id) {
            $next = $all->filter(fn (Step $step) => $step->parent_id === $id && $step->state === 'set-aside')->last();
            if ($next === null) {
                break;
            }
            $line[] = $next;
        }
        foreach ($all as $step) {
            if (in_array($step->state, Step::ALIVE, true) || (in_array($step->state, ['failed', 'stopped'], true) && $step->id > ($project->head_step_id ?? 0))) {
                $line[] = $step;
            }
        }

        return $line;
    }

    private function idle(Project $project): Project
    {
        $locked = Project::query()->lockForUpdate()->findOrFail($project->id);
        if ($locked->isBusy()) {
            throw new ConflictHttpException('A step is running; wait for it or stop it first.');
        }

        return $locked;
    }
}
