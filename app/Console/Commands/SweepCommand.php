<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Services\BlobStore;
use Illuminate\Console\Command;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Removes geometry that no step of any project holds: what failed steps and deleted projects left behind. */
final class SweepCommand extends Command
{
    protected $signature = 'emberstone:sweep {--hours=24 : younger blobs stay, a running step may be about to name them}';

    protected $description = 'Removes stored geometry that no project uses any more';

    public function handle(BlobStore $blobs): int
    {
        $unused = DB::table('blobs')
            ->whereRaw('created_at < now() - make_interval(hours => ?)', [(int) $this->option('hours')])
            ->whereNotExists(fn (Builder $query) => $query->from('step_blobs')->whereColumn('step_blobs.hash', 'blobs.hash'))
            ->get(['hash', 'size']);
        foreach ($unused as $blob) {
            $blobs->forget($blob->hash);
        }
        if ($unused->isNotEmpty()) {
            $this->info(sprintf('%d unused blobs removed, %.1f MB.', $unused->count(), $unused->sum('size') / 1e6));
        }

        return self::SUCCESS;
    }
}
