<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Illuminate\Database\QueryException;
use Illuminate\Support\Facades\DB;

/** Writes a step's progress and hears its stop: whenever it is told something, four times a second at most, and once a second in any case. */
final class JobProgress implements Progress
{
    private float $told = 0.0;

    private float $highest = 0.0;

    private bool $listening = false;

    public function __construct(private readonly Step $step)
    {
    }

    public function advance(string $stage, float $fraction): void
    {
        $now = microtime(true);
        $this->highest = max($this->highest, $fraction);
        if ($now - $this->told < 0.25) {
            return;
        }
        $this->told = $now;
        $this->listen(['progress' => min(0.99, $this->highest), 'doing' => $stage]);
    }

    /**
     * Does the work and looks up from it every second, so that a stop is heard inside a long kernel that tells nothing: the alarm
     * interrupts the loop it comes in, and the exception leaves from there.
     *
     * @template T
     *
     * @param  callable(): T  $work
     * @return T
     *
     * @throws OperationCancelled
     */
    public function watch(callable $work): mixed
    {
        $before = pcntl_signal_get_handler(SIGALRM);
        $async = pcntl_async_signals(true);
        pcntl_signal(SIGALRM, function (): void {
            pcntl_alarm(1);
            $this->listen();
        });
        pcntl_alarm(1);
        try {
            return $work();
        } finally {
            pcntl_alarm(0);
            pcntl_signal(SIGALRM, $before === 0 ? SIG_DFL : $before);
            pcntl_async_signals($async);
        }
    }

    /**
     * One sign of life, one look for a stop.
     *
     * @param  array<string, mixed>  $report  columns to write besides
     */
    private function listen(array $report = []): void
    {
        // The alarm may come while one is being given: in the middle of a query, or of reading the step's id, which a model does not do twice at once.
        if ($this->listening) {
            return;
        }
        $this->listening = true;
        try {
            $found = DB::table('steps')->where('id', $this->step->id)->update([...$report, 'beat_at' => DB::raw('now()')]);
            $stopped = $found === 0 || DB::table('steps')->where('id', $this->step->id)->value('stop_asked') === true;
        } catch (QueryException) {
            // The database is away for a moment, perhaps restarting. The work does not need it before it is done.
            return;
        } finally {
            $this->listening = false;
        }
        if ($stopped) {
            throw OperationCancelled::onRequest();
        }
    }
}
