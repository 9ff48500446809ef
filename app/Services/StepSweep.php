<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use App\Models\Step;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Query\Builder as QueryBuilder;
use Illuminate\Support\Facades\DB;

/**
 * Finds steps whose worker died, and steps that wait for a job that is not there. A worker holds an advisory lock of the database while it runs a step, and gives a sign of life
 * every second. The lock goes with its connection, however it ended; a worker that outlived its connection still gives signs.
 */
final class StepSweep
{
    /** One class of locks among all that the database may hold. */
    private const LOCK_CLASS = 20261123;

    /** Seconds without a sign of life. */
    public const SILENCE = 8;

    public function __construct(private readonly StepQueue $queue)
    {
    }

    public function __invoke(Project $project): void
    {
        $silent = fn (Builder $query) => $query->whereNull('beat_at')->orWhereRaw("beat_at < clock_timestamp() - interval '".self::SILENCE." seconds'");
        foreach ($project->steps()->where('state', 'running')->where($silent)->get(['id', 'state', 'project_id']) as $step) {
            if (! self::hold($step->id)) {
                continue;
            }
            $project->steps()->whereKey($step->id)->where('state', 'running')->update(['state' => 'failed', 'doing' => null, 'message' => 'Interrupted: the worker ended in the middle of the step. Nothing was changed; run it again.']);
            self::release($step->id);
        }
        $this->sendAgain($project);
    }

    /** Goes through all projects that have something on its way: called by the clock, for work that nobody looks at. */
    public function everywhere(): void
    {
        foreach (Project::query()->whereHas('steps', fn (Builder $steps) => $steps->whereIn('state', Step::ALIVE))->get(['id']) as $project) {
            $this($project);
        }
    }

    /**
     * The ledger is the truth, the queue a hint: a step whose turn it is gets a new job when none is on its way. A worker that was killed takes the job it held with it: the
     * queue would give it out again after two hours only.
     */
    private function sendAgain(Project $project): void
    {
        foreach ($this->queue->due($project->id) as $step) {
            if ($step->updated_at?->isAfter(now()->subSeconds(self::SILENCE))) {
                continue;
            }
            $jobs = StepQueue::jobsOf($step->id);
            if ((clone $jobs)->where(fn (QueryBuilder $query) => $query->whereNull('reserved_at')->orWhere('reserved_at', '>', now()->subSeconds(self::SILENCE)->getTimestamp()))->exists() || ! self::hold($step->id)) {
                continue;
            }
            $jobs->delete();
            self::release($step->id);
            $step->touch();
            $this->queue->next($project->id);
        }
    }

    /** Ends a step that nobody has begun; false when a worker has it. */
    public function endWaiting(Step $step): bool
    {
        if (! self::hold($step->id)) {
            return false;
        }
        try {
            return $step->newQuery()->whereKey($step->id)->where('state', 'waiting')->update(['state' => 'stopped', 'stop_asked' => true, 'message' => 'Stopped before it began.']) > 0;
        } finally {
            self::release($step->id);
            $this->queue->next($step->project_id);
        }
    }

    public static function hold(int $step): bool
    {
        return (bool) DB::selectOne('select pg_try_advisory_lock(?, ?) as got', [self::LOCK_CLASS, $step])->got;
    }

    public static function release(int $step): void
    {
        DB::selectOne('select pg_advisory_unlock(?, ?)', [self::LOCK_CLASS, $step]);
    }
}
