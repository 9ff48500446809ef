<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Models\Step;
use App\Services\BlobStore;
use App\Services\Ledger;
use App\Services\StepWork;
use Emberstone\Core\Foundation\NoProgress;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;
use Throwable;

/**
 * Reads every blob and compares it with its name. What is damaged is made whole from the copy in the cache; where there is none, the step that made it is computed once more,
 * which gives the same bytes.
 */
final class VerifyCommand extends Command
{
    protected $signature = 'emberstone:verify {--pause=0 : milliseconds between two blobs, for a slow pace beside work}';

    protected $description = 'Checks all stored geometry and makes what is damaged anew';

    public function handle(BlobStore $blobs, StepWork $work): int
    {
        $hashes = DB::table('blobs')->orderBy('hash')->pluck('hash');
        $damaged = [];
        foreach ($hashes as $hash) {
            usleep(1000 * (int) $this->option('pause'));
            if ($blobs->isIntact($hash)) {
                continue;
            }
            if ($blobs->mend($hash)) {
                $this->info("$hash was damaged and is whole again: the cache held a copy.");
            } else {
                $damaged[] = $hash;
            }
        }
        $lost = count(array_filter($this->makers($damaged), fn (?Step $maker, string $hash) => ! $this->remade($hash, $maker, $blobs, $work), ARRAY_FILTER_USE_BOTH));
        $this->info("{$hashes->count()} blobs checked, $lost damaged.");

        return $lost === 0 ? self::SUCCESS : self::FAILURE;
    }

    /**
     * The step that was the first to hold each blob, oldest step first: what later ones are computed from is whole by then.
     *
     * @param  list<string>  $hashes
     * @return array<string, Step|null>
     */
    private function makers(array $hashes): array
    {
        $makers = [];
        foreach ($hashes as $hash) {
            $makers[$hash] = Step::query()->with('project')->whereKey(DB::table('step_blobs')->where('hash', $hash)->min('step_id'))->first();
        }
        uasort($makers, fn (?Step $a, ?Step $b) => ($a->id ?? PHP_INT_MAX) <=> ($b->id ?? PHP_INT_MAX));

        return $makers;
    }

    private function remade(string $hash, ?Step $maker, BlobStore $blobs, StepWork $work): bool
    {
        $blobs->clear($hash);
        if ($maker === null) {
            $this->error("$hash is damaged and there is no copy of it. No step holds it: the hourly sweep removes it.");

            return false;
        }
        $of = "step $maker->id of \"{$maker->project->name}\" ($maker->operation)";
        if (in_array($maker->operation, Ledger::ARRIVALS, true)) {
            $this->error("$hash is damaged and there is no copy of it. It came in with $of: bring the same files in once more, into any project, and it is whole again.");

            return false;
        }
        try {
            $work->result($maker, new NoProgress, fn (callable $piece) => $piece());
        } catch (Throwable $problem) {
            $this->error("$hash is damaged, and $of, which made it, failed when it was run again: {$problem->getMessage()}");

            return false;
        }
        if ($blobs->isIntact($hash)) {
            $this->info("$hash was damaged and is whole again: $of was computed once more.");

            return true;
        }
        $this->error("$hash is damaged, and $of gives other bytes today: undo to the step before it and run it again.");

        return false;
    }
}
