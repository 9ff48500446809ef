<?php

declare(strict_types=1);

namespace App\Services;

use App\Jobs\RunStep;
use App\Models\Project;
use App\Models\Step;
use App\Models\Upload;
use Emberstone\Core\Recipe\Catalogue;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Puts steps into the queue of the workers when their turn comes: of each project the first of its line alone, so that a long line of one project stands behind a single step
 * of another, and short steps before long ones.
 */
final class StepQueue
{
    /** Of short steps: each worker takes these first, and one worker takes nothing else (bin/lib/services.sh). */
    public const SHORT = 'short';

    /** Of all other steps. */
    public const LONG = 'default';

    /** Points of passes and faces of bodies up to which a step is short: most operations take less than some seconds for as many. */
    private const SHORT_ELEMENTS = 100_000;

    /** Bytes of files up to which an import is short: a second's reading. */
    private const SHORT_BYTES = 5_000_000;

    /** Sends whatever in a project can begin now. Sent twice, a step runs once all the same: whoever comes second finds it taken. */
    public function next(string $project): void
    {
        foreach ($this->due($project) as $step) {
            RunStep::dispatch($step->id)->onQueue($this->queueFor($step))->afterCommit();
        }
    }

    /**
     * Waiting steps that nothing stands before. A trial waits for all before it; no step waits for a trial, which changes nothing.
     *
     * @return list<Step>
     */
    public function due(string $project): array
    {
        $alive = Step::query()->where('project_id', $project)->whereIn('state', Step::ALIVE)->orderBy('id')->get(['id', 'project_id', 'operation', 'parameters', 'works_on', 'state', 'trial', 'updated_at']);
        $ofLine = $alive->first(fn (Step $step) => ! $step->trial);

        return array_values($alive->filter(fn (Step $step, int $k) => $step->state === 'waiting' && ($k === 0 || $step === $ofLine))->all());
    }

    /** Called at its turn, when the state it works on is that of the project. */
    public function queueFor(Step $step): string
    {
        if ($step->operation === 'import') {
            return Upload::query()->whereKey($step->parameters['uploads'] ?? [])->sum('size') <= self::SHORT_BYTES ? self::SHORT : self::LONG;
        }
        if (in_array($step->operation, Ledger::ARRIVALS, true)) {
            return self::LONG;
        }
        if (Catalogue::operation($step->operation)::about()->needs === 'places') {
            return self::SHORT;
        }
        $snapshot = Project::query()->find($step->project_id)?->snapshot() ?? Step::EMPTY_SNAPSHOT;

        return array_sum(array_column($snapshot['passes'], 'points')) + array_sum(array_column($snapshot['bodies'], 'faces')) <= self::SHORT_ELEMENTS ? self::SHORT : self::LONG;
    }

    /** The rows of the queue that would carry out a step. PostgreSQL cannot read their payload as JSON: names of private properties hold NUL. */
    public static function jobsOf(int $step): Builder
    {
        return DB::table('jobs')->where('payload', 'like', '%"displayName":"'.RunStep::nameOf($step).'",%');
    }
}
