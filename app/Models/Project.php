<?php

declare(strict_types=1);

namespace App\Models;

use App\Services\BlobStore;
use Emberstone\Core\Deliver\Brief;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Concerns\HasUuids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\BelongsToMany;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Facades\DB;

/**
 * One commission. What it holds now is the snapshot of its head step; see docs/architecture.md.
 *
 * @property string $id
 * @property int $owner_id
 * @property string $name
 * @property array<string, mixed> $brief
 * @property int|null $head_step_id
 * @property array{by: string, at: string}|null $scale_confirmed
 * @property array<string, string> $labels names given by hand, by item id
 * @property array<string, array{colour: string|null, material: string|null}> $looks colours and materials given by hand, by body id
 * @property list<string> $locked ids of items that registering must not move
 * @property bool $archived out of the list until it is asked for
 * @property list<string> $tray_order ids in the order a person gave them; what is not listed comes after
 * @property-read User $owner
 * @property-read Step|null $head
 * @property-read \Illuminate\Support\Carbon|null $updated_at
 */
final class Project extends Model
{
    use HasUuids;

    protected $fillable = ['owner_id', 'name', 'brief', 'head_step_id', 'scale_confirmed', 'labels', 'looks', 'locked', 'tray_order', 'archived'];

    protected $attributes = ['labels' => '{}', 'looks' => '{}', 'locked' => '[]', 'tray_order' => '[]', 'archived' => false];

    protected function casts(): array
    {
        return ['brief' => 'array', 'scale_confirmed' => 'array', 'labels' => 'array', 'looks' => 'array', 'locked' => 'array', 'tray_order' => 'array', 'archived' => 'boolean'];
    }

    /** @return BelongsTo<User, $this> */
    public function owner(): BelongsTo
    {
        return $this->belongsTo(User::class, 'owner_id');
    }

    /** @return BelongsToMany<User, $this> */
    public function members(): BelongsToMany
    {
        return $this->belongsToMany(User::class);
    }

    /** Lets somebody else work on it; the owner does already. */
    public function welcome(User $user): void
    {
        if ($user->id !== $this->owner_id) {
            $this->members()->syncWithoutDetaching([$user->id]);
        }
    }

    /** @return HasMany<Step, $this> */
    public function steps(): HasMany
    {
        return $this->hasMany(Step::class);
    }

    /** @return HasMany<Upload, $this> */
    public function uploads(): HasMany
    {
        return $this->hasMany(Upload::class);
    }

    /** @return HasMany<ReceiverLink, $this> */
    public function links(): HasMany
    {
        return $this->hasMany(ReceiverLink::class);
    }

    /** @return HasMany<Capture, $this> */
    public function captures(): HasMany
    {
        return $this->hasMany(Capture::class);
    }

    /** @return BelongsTo<Step, $this> */
    public function head(): BelongsTo
    {
        return $this->belongsTo(Step::class, 'head_step_id');
    }

    /** @return Builder<Project> */
    public static function visibleTo(User $user): Builder
    {
        return self::query()->where(fn (Builder $q) => $q->where('owner_id', $user->id)->orWhereHas('members', fn (Builder $m) => $m->whereKey($user->id)));
    }

    public function isVisibleTo(User $user): bool
    {
        return $this->owner_id === $user->id || $this->members()->whereKey($user->id)->exists();
    }

    public function briefValue(): Brief
    {
        return Brief::fromArray($this->brief);
    }

    /** @return array{passes: list<array<string, mixed>>, bodies: list<array<string, mixed>>, datums: list<array<string, mixed>>, artefacts: list<array<string, mixed>>, suggestions: array<string, mixed>, oriented: bool} */
    public function snapshot(): array
    {
        return Step::current($this->head_step_id === null ? [] : $this->head->snapshot ?? []);
    }

    /**
     * Who confirmed the scale, and when; null where nobody has, or it has changed since.
     *
     * @param  array<string, mixed>|null  $snapshot  the state that is asked of; as the project is now when null
     * @return array{by: string, at: string}|null
     */
    public function scaleConfirmed(?array $snapshot = null): ?array
    {
        $snapshot ??= $this->snapshot();

        // In states of older versions it was a fact about the project.
        return array_key_exists('scaleConfirmed', $snapshot) ? $snapshot['scaleConfirmed'] : $this->scale_confirmed;
    }

    /** Deletes the project and frees what it alone held: uploads, captures, geometry. */
    public function discard(BlobStore $blobs): void
    {
        $uploads = $this->uploads()->get();
        foreach ($this->captures()->get() as $capture) {
            $capture->forget();
        }
        $held = DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->where('project_id', $this->id)->distinct()->pluck('hash')->all();
        $this->delete();
        // After their rows: whoever still sends is told that there is no such upload, and sends no more.
        foreach ($uploads as $upload) {
            $upload->parts()->remove();
        }
        foreach ($held as $hash) {
            if (! DB::table('step_blobs')->where('hash', $hash)->exists()) {
                $blobs->forget($hash);
            }
        }
    }

    /** Whether a step is waiting or running. Trials change nothing, so nobody waits for them. */
    public function isBusy(): bool
    {
        return $this->steps()->where('trial', false)->whereIn('state', Step::ALIVE)->exists();
    }
}
