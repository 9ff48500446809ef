<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Capture;
use App\Models\Project;
use App\Models\Step;
use App\Models\Upload;
use App\Services\DiskSpace;
use App\Services\JobProgress;
use App\Services\Ledger;
use App\Services\LostConnection;
use App\Services\StandingFixture;
use App\Services\StepPace;
use App\Services\StepQueue;
use App\Services\StepSweep;
use App\Services\StepWork;
use App\Services\ValidText;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\OperationCancelled;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;
use Throwable;

/** Runs one step. Its result and its row appear in one transaction, or not at all. */
final class RunStep implements ShouldQueue
{
    use Queueable;

    /** None: a step ends by itself or by its stop, and StepSweep finds those whose worker died. */
    public int $timeout = 0;

    public int $tries = 0;

    public int $maxExceptions = 1;

    public function __construct(private readonly int $stepId)
    {
    }

    /** Names the job in the queue, so that StepSweep finds the jobs of a step. */
    public function displayName(): string
    {
        return self::nameOf($this->stepId);
    }

    public static function nameOf(int $step): string
    {
        return "step $step";
    }

    public function handle(StepWork $work, Ledger $ledger, StandingFixture $standing, StepQueue $queue, DiskSpace $disk, StepPace $pace): void
    {
        $pace->measure();
        // Held as long as this worker lives: StepSweep tells by it a step that runs from one that was left behind.
        if (! StepSweep::hold($this->stepId)) {
            return;
        }
        try {
            $step = $this->claim();
            if ($step !== null) {
                $this->carryOut($step, $work, $ledger, $standing, $disk);
            }
        } finally {
            LostConnection::outlasted(fn () => StepSweep::release($this->stepId));
        }
        $project = $step->project_id ?? Step::query()->whereKey($this->stepId)->value('project_id');
        // What waited for this step: behind what other projects have sent meanwhile.
        $project === null || LostConnection::outlasted(fn () => $queue->next($project));
    }

    private function carryOut(Step $step, StepWork $work, Ledger $ledger, StandingFixture $standing, DiskSpace $disk): void
    {
        $started = microtime(true);
        try {
            $step->update(['begun_at' => now(), 'estimated' => $work->estimate($step)]);
            $progress = new JobProgress($step);
            $result = $work->result($step, $progress, $progress->watch(...));
            $restored = $result['ledger'] ?? null;
            $result = ValidText::of(array_diff_key($result, ['ledger' => 0]));
            LostConnection::outlasted(fn () => DB::transaction(function () use ($step, $result, $restored, $started, $ledger, $standing): void {
                $project = Project::query()->lockForUpdate()->findOrFail($step->project_id);
                // Tried again after a failed commit, the model would think this written already.
                $step->refresh()->update(['state' => 'done', 'progress' => 1.0, 'doing' => null, 'snapshot' => $result['snapshot'], 'figures' => $result['figures'], 'seconds' => microtime(true) - $started]);
                if ($step->trial) {
                    return;
                }
                $before = array_column($project->snapshot()['passes'], 'id');
                $project->update(['head_step_id' => $step->id]);
                if ($restored !== null) {
                    $restored->into($project, $step);

                    return;
                }
                if ($step->follow_ups !== [] && $step->user !== null) {
                    [$next] = $step->follow_ups;
                    $ledger->add($project, $step->user, $next['operation'], $next['parameters'], $next['on'], array_slice($step->follow_ups, 1), origin: $next['origin']);
                } else {
                    $standing->follow($project, $step, $before);
                }
            }));
            $this->forgetArrivals($step);
        } catch (OperationCancelled $stopped) {
            LostConnection::outlasted(fn () => $step->update(['state' => 'stopped', 'doing' => null, 'message' => $stopped->getMessage(), 'seconds' => microtime(true) - $started]));
        } catch (Throwable $problem) {
            // Blobs written outside the transaction are named by content: the next run finds them again.
            $known = $problem instanceof EmberstoneException;
            $message = match (true) {
                $known => ValidText::of($problem->getMessage()),
                $disk->isReasonOf($problem) => 'The disk of this machine is full; nothing was changed. Delete projects that are done with (their space is free at once), then run the step again.',
                LostConnection::isReasonOf($problem) => 'Interrupted: the database was away in the middle of the step. Nothing was changed; run it again.',
                default => 'Something went wrong in Emberstone itself; nothing was changed. Run the step again; if it fails again, tell whoever looks after this installation.',
            };
            LostConnection::outlasted(fn () => $step->update(['state' => 'failed', 'doing' => null, 'message' => $message, 'seconds' => microtime(true) - $started]));
            $known || report($problem);
        }
    }

    /** Marks the step as running if it is its turn; else whoever ends the step before it sends it again. */
    private function claim(): ?Step
    {
        return DB::transaction(function (): ?Step {
            $step = Step::query()->find($this->stepId);
            if ($step === null || ! in_array($step->state, Step::ALIVE, true)) {
                return null;
            }
            if ($step->state === 'running') {
                // The queue hands a job out again only after the worker that held it died.
                $step->update(['state' => 'failed', 'message' => 'Interrupted: the worker ended in the middle of the step. Nothing was changed; run it again.', 'doing' => null]);

                return null;
            }
            $project = Project::query()->lockForUpdate()->find($step->project_id);
            // A trial waits for all before it; no step waits for a trial, which changes nothing.
            $earlier = Step::query()->where('project_id', $step->project_id)->where('id', '<', $step->id)->whereIn('state', Step::ALIVE)->when(! $step->trial, fn ($steps) => $steps->where('trial', false))->exists();
            if ($project === null || $earlier) {
                return null;
            }
            if ($step->stop_asked) {
                $step->update(['state' => 'stopped', 'message' => 'Stopped before it began.']);

                return null;
            }
            $step->update(['state' => 'running', 'parent_id' => $project->head_step_id, 'beat_at' => now()]);

            return $step;
        });
    }

    /** What came in lives in blobs now. */
    private function forgetArrivals(Step $step): void
    {
        if ($step->operation === 'capture') {
            Capture::query()->find($step->parameters['capture'] ?? null)?->forget();
        }
        foreach ($step->operation === 'import' ? Upload::query()->whereKey($step->parameters['uploads'] ?? [])->get() : [] as $upload) {
            $upload->parts()->remove();
            $upload->delete();
        }
    }
}
