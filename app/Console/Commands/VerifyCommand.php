<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Services\BlobStore;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

/** Reads every blob, compares it with its name, and mends what is damaged from the copy in the cache where there is one. */
final class VerifyCommand extends Command
{
    protected $signature = 'emberstone:verify {--pause=0 : milliseconds between two blobs, for a slow pace beside work}';

    protected $description = 'Checks all stored geometry and mends what can be mended';

    public function handle(BlobStore $blobs): int
    {
        $damaged = 0;
        $checked = 0;
        foreach (DB::table('blobs')->orderBy('hash')->pluck('hash') as $hash) {
            usleep(1000 * (int) $this->option('pause'));
            $checked++;
            if ($blobs->isIntact($hash)) {
                continue;
            }
            if ($blobs->mend($hash)) {
                $this->info("$hash was damaged and is whole again: the cache held a copy.");

                continue;
            }
            $damaged++;
            $this->error("$hash is damaged and there is no copy of it.");
            foreach (DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->join('projects', 'projects.id', '=', 'project_id')->where('step_blobs.hash', $hash)->orderBy('steps.id')->limit(1)->get(['steps.id', 'operation', 'name']) as $step) {
                $this->line("  Step $step->id of \"$step->name\" ($step->operation) made it: undo to the step before and run it again.");
            }
        }
        $this->info("$checked blobs checked, $damaged damaged.");

        return $damaged === 0 ? self::SUCCESS : self::FAILURE;
    }
}
