<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Concerns\HasUuids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A file on its way in.
 *
 * @property string $id
 * @property string $project_id
 * @property string $name
 * @property int $size
 * @property int $received
 */
final class Upload extends Model
{
    use HasUuids;

    protected $fillable = ['project_id', 'user_id', 'name', 'size', 'received'];

    protected $attributes = ['received' => 0];

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /**
     * Hands over the file under the name it came with, so that messages speak of that name.
     *
     * @template T
     *
     * @param  callable(string): T  $work
     * @return T
     */
    public function withItsName(callable $work): mixed
    {
        $folder = $this->path().'.named';
        is_dir($folder) || mkdir($folder, 0770, true);
        $named = $folder.'/'.basename($this->name);
        is_link($named) || symlink($this->path(), $named);
        try {
            return $work($named);
        } finally {
            unlink($named);
            rmdir($folder);
        }
    }

    public function path(): string
    {
        $folder = storage_path('uploads');
        is_dir($folder) || mkdir($folder, 0770, true);

        return "$folder/{$this->id}";
    }
}
