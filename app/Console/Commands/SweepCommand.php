<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Models\Step;
use App\Models\Upload;
use App\Services\BlobStore;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Foundation\Scratch;
use Illuminate\Console\Command;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Str;

/** Removes what nobody needs any more: geometry that no step of any project holds, uploads that were never imported, folders of killed imports, trials that nobody kept. */
final class SweepCommand extends Command
{
    protected $signature = 'emberstone:sweep {--hours=24 : younger blobs stay, a running step may be about to name them}';

    protected $description = 'Removes stored geometry, uploads and temporary files that nobody uses any more';

    /** Days after which an upload that was neither finished nor imported is removed: a week holds a weekend and a slow line. */
    private const UPLOAD_DAYS = 7;

    public function handle(BlobStore $blobs): int
    {
        Fork::sweep();
        Scratch::sweep();
        $this->forgetUploads();
        foreach (glob(storage_path('framework/import-*'), GLOB_ONLYDIR) ?: [] as $folder) {
            if (filemtime($folder) < time() - 86400) {
                File::deleteDirectory($folder);
            }
        }
        Step::query()->where('trial', true)->whereNotIn('state', Step::ALIVE)->where('updated_at', '<', now()->subDay())->delete();
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

    private function forgetUploads(): void
    {
        foreach (Upload::query()->where('updated_at', '<', now()->subDays(self::UPLOAD_DAYS))->get() as $upload) {
            $upload->parts()->remove();
            $upload->delete();
        }
        // A row is there before its file: one without is left of a deletion that was cut off.
        foreach (glob(storage_path('uploads/*')) ?: [] as $file) {
            $id = substr(basename($file), 0, 36);
            if (filemtime($file) < time() - 3600 * (int) min(24, $this->option('hours')) && (! Str::isUuid($id) || ! Upload::query()->whereKey($id)->exists())) {
                @unlink($file);
            }
        }
    }
}
