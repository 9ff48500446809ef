<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Finds steps whose worker died. A worker holds an advisory lock of the database while it runs a step, and gives a sign of life
 * every second. The lock goes with its connection, however it ended; a worker that outlived its connection still gives signs.
 */
final class StepSweep
{
    /** One class of locks among all that the database may hold. */
    private const LOCK_CLASS = 20261123;

    /** Seconds without a sign of life. */
    public const SILENCE = 8;

    public function __invoke(Project $project): void
    {
        $silent = fn (Builder $query) => $query->whereNull('beat_at')->orWhereRaw("beat_at < now() - interval '".self::SILENCE." seconds'");
        foreach ($project->steps()->where('state', 'running')->where($silent)->get(['id', 'state', 'project_id']) as $step) {
            if (! self::hold($step->id)) {
                continue;
            }
            $project->steps()->whereKey($step->id)->where('state', 'running')->update(['state' => 'failed', 'doing' => null, 'message' => 'Interrupted: the worker ended in the middle of the step. Nothing was changed; run it again.']);
            self::release($step->id);
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
