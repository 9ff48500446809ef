<?php

declare(strict_types=1);

namespace App\Services;

use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use SplFileInfo;

/** What takes the space of the installation, in bytes. */
final class SpaceTaken
{
    /** Folders of the storage, and what they hold. */
    private const FOLDERS = ['uploads' => 'Uploads on their way', 'captures' => 'Live captures', 'blobs' => 'Copies of geometry, for speed: may be deleted at any time', 'framework' => 'Temporary files'];

    public function __construct(private readonly DiskSpace $disk)
    {
    }

    /** @return array{used: float, free: float, things: list<array{what: string, bytes: float}>, projects: list<array{name: string, owner: string, bytes: float}>} used: the share of the disk, 0 to 1; projects: the largest first */
    public function report(int $projects = 20): array
    {
        $things = [['what' => 'Geometry in the database', 'bytes' => (float) DB::table('blobs')->sum('size')]];
        foreach (self::FOLDERS as $folder => $what) {
            $things[] = ['what' => $what, 'bytes' => self::size(storage_path($folder))];
        }

        return ['used' => $this->disk->used(), 'free' => $this->disk->free(), 'things' => $things, 'projects' => $this->projects($projects)];
    }

    /**
     * A blob that several projects hold counts for each of them: it goes with the last.
     *
     * @return list<array{name: string, owner: string, bytes: float}>
     */
    private function projects(int $most): array
    {
        $held = DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->distinct()->select('project_id', 'hash');
        $rows = DB::table('projects')->joinSub($held, 'held', 'held.project_id', '=', 'projects.id')->join('blobs', 'blobs.hash', '=', 'held.hash')->join('users', 'users.id', '=', 'owner_id')
            ->groupBy('projects.id', 'projects.name', 'users.name')->orderByDesc('bytes')->limit($most)
            ->selectRaw('projects.name as name, users.name as owner, sum(blobs.size) as bytes')->get();

        return array_values($rows->map(fn (object $row) => ['name' => (string) $row->name, 'owner' => (string) $row->owner, 'bytes' => (float) $row->bytes])->all());
    }

    private static function size(string $folder): float
    {
        // A file may go while the folder is read.
        return is_dir($folder) ? (float) array_sum(array_map(fn (SplFileInfo $file) => (float) @filesize($file->getPathname()), File::allFiles($folder))) : 0.0;
    }
}
