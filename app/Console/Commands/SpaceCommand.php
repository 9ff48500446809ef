<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Services\DiskSpace;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;

/** What takes the space: for the one who runs the installation. */
final class SpaceCommand extends Command
{
    protected $signature = 'emberstone:space';

    protected $description = 'Says what takes the space: projects, uploads, captures, the cache';

    public function handle(DiskSpace $disk): int
    {
        $this->line(sprintf('%.0f %% of the disk is in use, %.1f GB are free.', 100.0 * $disk->used(), $disk->free() / 1e9));
        $this->row('geometry in the database', (float) DB::table('blobs')->sum('size'));
        // A blob that several projects hold goes with the last of them.
        foreach (DB::select('select projects.name, sum(blobs.size) as bytes from (select distinct project_id, hash from step_blobs join steps on steps.id = step_id) as held join blobs using (hash) join projects on projects.id = project_id group by projects.id, projects.name order by bytes desc limit 10') as $project) {
            $this->row("  held by \"$project->name\"", (float) $project->bytes);
        }
        foreach (['uploads' => 'uploads on their way', 'captures' => 'live captures', 'blobs' => 'cache of geometry (may be deleted at any time)', 'framework' => 'temporary files'] as $folder => $what) {
            $this->row($what, $this->size(storage_path($folder)));
        }

        return self::SUCCESS;
    }

    private function row(string $what, float $bytes): void
    {
        $this->line(sprintf('%10.1f MB  %s', $bytes / 1e6, $what));
    }

    private function size(string $folder): float
    {
        return is_dir($folder) ? (float) array_sum(array_map(fn (\SplFileInfo $file) => $file->getSize(), File::allFiles($folder))) : 0.0;
    }
}
