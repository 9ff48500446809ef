<?php

declare(strict_types=1);

namespace App\Models;

use App\Services\UploadParts;
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

    /** A link to the file under the name it came with, so that messages speak of that name. */
    public function linkUnderItsName(string $folder): string
    {
        $own = "$folder/named-{$this->id}";
        mkdir($own, 0770);
        symlink($this->parts()->whole(), $own.'/'.basename($this->name));

        return $own.'/'.basename($this->name);
    }

    public function parts(): UploadParts
    {
        return new UploadParts($this->path());
    }

    public function path(): string
    {
        $folder = storage_path('uploads');
        is_dir($folder) || mkdir($folder, 0770, true);

        return "$folder/{$this->id}";
    }
}
