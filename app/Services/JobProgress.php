<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use Emberstone\Core\Operation\OperationCancelled;
use Emberstone\Core\Operation\Progress;
use Illuminate\Support\Facades\DB;

/** Writes a step's progress and hears its stop, four times a second at most. */
final class JobProgress implements Progress
{
    private float $told = 0.0;

    private float $highest = 0.0;

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
        $stopped = DB::table('steps')->where('id', $this->step->id)->value('stop_asked');
        if ($stopped === null || $stopped === true) {
            throw OperationCancelled::onRequest();
        }
        DB::table('steps')->where('id', $this->step->id)->update(['progress' => min(0.99, $this->highest), 'doing' => $stage, 'beat_at' => now()]);
    }
}
