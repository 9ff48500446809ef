<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Ramsey\Uuid\Uuid;

/**
 * One line of the ledger. `snapshot` is the whole state of the project after it: items, the blobs that hold them, their places.
 *
 * @property int $id
 * @property string $project_id
 * @property int|null $user_id who took it; null where that was on another installation
 * @property int|null $parent_id the step before it; set when it starts
 * @property string $operation
 * @property array<string, mixed> $parameters
 * @property list<string>|null $works_on ids of the passes and bodies that it works on; null: all that it can
 * @property int|null $origin_id the step that this one was run again of; what both make has the same ids
 * @property list<array{operation: string, parameters: array<string, mixed>, on: list<string>|null, origin: int}> $follow_ups steps to add when this one is done
 * @property string $state waiting, running, done, failed, stopped or set-aside
 * @property float $progress
 * @property string|null $doing
 * @property array<string, mixed>|null $snapshot
 * @property array<string, mixed>|null $figures
 * @property string|null $message
 * @property float|null $seconds
 * @property float|null $estimated seconds, as its operation said before it began; null before, and of what brings geometry in
 * @property \Illuminate\Support\Carbon|null $begun_at when its work began; null while it waits
 * @property bool $stop_asked
 * @property string|null $made_as of a step from a project file: the project and the step there, by which what it makes is named
 * @property string|null $by_name of a step from a project file: who took it
 * @property bool $trial carried out to be looked at; it becomes part of the ledger only when it is kept
 * @property-read Project $project
 * @property-read User|null $user
 * @property-read \Illuminate\Support\Carbon|null $created_at
 * @property-read \Illuminate\Support\Carbon|null $updated_at
 */
final class Step extends Model
{
    public const EMPTY_SNAPSHOT = ['passes' => [], 'bodies' => [], 'datums' => [], 'artefacts' => [], 'suggestions' => [], 'oriented' => false];

    /** States of a step that has not ended yet. */
    public const ALIVE = ['waiting', 'running'];

    protected $fillable = ['project_id', 'parent_id', 'user_id', 'origin_id', 'operation', 'parameters', 'works_on', 'follow_ups', 'state', 'progress', 'doing', 'snapshot', 'figures', 'message', 'seconds', 'stop_asked', 'beat_at', 'trial', 'request_key', 'made_as', 'by_name', 'estimated', 'begun_at'];

    protected $attributes = ['parameters' => '{}', 'follow_ups' => '[]', 'state' => 'waiting', 'progress' => 0, 'stop_asked' => false, 'trial' => false];

    protected static function booted(): void
    {
        self::saved(function (self $step): void {
            if ($step->wasChanged(['snapshot', 'figures']) || ($step->wasRecentlyCreated && $step->snapshot !== null)) {
                $step->tieBlobs();
            }
        });
    }

    /** @return array<string, mixed> the snapshot that it works on; of a step that has begun */
    public function stateBefore(): array
    {
        return self::current(self::query()->find($this->parent_id)->snapshot ?? []);
    }

    /**
     * A state as this version has it.
     *
     * @param  array<string, mixed>  $snapshot  also of an earlier version: these knew no artefacts, and then only curves
     * @return array{passes: list<array<string, mixed>>, bodies: list<array<string, mixed>>, datums: list<array<string, mixed>>, artefacts: list<array<string, mixed>>, suggestions: array<string, mixed>, oriented: bool}
     */
    public static function current(array $snapshot): array
    {
        $snapshot += self::EMPTY_SNAPSHOT;
        $snapshot['artefacts'] = array_map(function (array $row): array {
            $row += ['parts' => $row['curves'] ?? 0, 'surface' => null];
            unset($row['curves']);

            return $row;
        }, $snapshot['artefacts']);

        return $snapshot;
    }

    /** The id of the nth thing that it makes: the same when it is run again, so that names, places in the tray and later steps still find it. */
    public function idOfMade(int $nth): string
    {
        [$project, $root] = explode(' ', $this->made_as ?? "$this->project_id ".($this->origin_id ?? $this->id));

        return (string) Uuid::uuid5($project, "$root $nth");
    }

    /** Who took it, also where that was on another installation. */
    public function takenBy(): ?string
    {
        return $this->user->name ?? $this->by_name;
    }

    /** Was this id made by idOfMade()? Older versions gave what a step made another id each time. */
    public static function isLasting(string $id): bool
    {
        return Str::isUuid($id, 5);
    }

    /** Writes down which blobs the state and the figures of this step hold. */
    public function tieBlobs(): void
    {
        $hashes = [];
        foreach ([...$this->snapshot['passes'] ?? [], ...$this->snapshot['bodies'] ?? [], ...$this->snapshot['artefacts'] ?? [], ...$this->figures['maps'] ?? []] as $row) {
            $hashes[$row['blob']] = true;
            $hashes[$row['mask'] ?? $row['blob']] = true;
        }
        DB::table('step_blobs')->where('step_id', $this->id)->delete();
        foreach (array_chunk(array_keys($hashes), 500) as $some) {
            DB::table('step_blobs')->insert(array_map(fn (string $hash) => ['step_id' => $this->id, 'hash' => $hash], $some));
        }
    }

    protected function casts(): array
    {
        return ['parameters' => 'array', 'works_on' => 'array', 'follow_ups' => 'array', 'snapshot' => 'array', 'figures' => 'array', 'stop_asked' => 'boolean', 'trial' => 'boolean', 'progress' => 'float', 'seconds' => 'float', 'beat_at' => 'datetime', 'estimated' => 'float', 'begun_at' => 'datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
