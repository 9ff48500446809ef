<?php

declare(strict_types=1);

namespace App\Models;

use Emberstone\Core\Capture\Coverage;
use Emberstone\Core\Capture\Frame;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Concerns\HasUuids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Facades\File;

/**
 * A scan in the making: frames arrive from a bridge (docs/capture-protocol.md) until it is finished and becomes passes.
 *
 * @property string $id
 * @property string $project_id
 * @property int $user_id
 * @property array<string, mixed>|null $scanner settings of a simulated scanner; null when a device's own bridge delivers
 * @property string $token_hash
 * @property string $state waiting, running, paused, ended (the scanner has made all its stops), finished or failed
 * @property array{float, float, float}|null $look where the scanner should go, until it was told
 * @property bool $spray whether the part should be sprayed, until it was told
 * @property int $frames
 * @property int $lost frames without tracking
 * @property bool $is_lost the last frame was one
 * @property int $points
 * @property array<string, mixed>|null $coverage figures of it
 * @property array{float, float, float}|null $stands_at the scanner
 * @property string|null $message
 * @property-read Project $project
 * @property-read User $user
 * @property \Illuminate\Support\Carbon|null $beat_at
 * @property \Illuminate\Support\Carbon|null $active_at when a frame or a word of a person last came; a paused scanner asks on, which is no sign of either
 * @property \Illuminate\Support\Carbon|null $created_at
 */
final class Capture extends Model
{
    use HasUuids;

    /** States in which frames are taken. */
    public const OPEN = ['waiting', 'running', 'paused'];

    /** A running scanner that is silent for longer is said to be. */
    private const SILENT_S = 15;

    /** Minutes after which a capture that nobody feeds or steers ends: it holds a worker, and others wait for it. */
    private const IDLE_MINUTES = 30;

    /** Days for which the frames of a capture are kept that nobody finished. */
    private const KEPT_DAYS = 7;

    protected $fillable = ['project_id', 'user_id', 'scanner', 'token_hash', 'state', 'look', 'spray', 'frames', 'lost', 'is_lost', 'points', 'coverage', 'stands_at', 'message', 'beat_at', 'active_at'];

    protected $attributes = ['state' => 'waiting', 'spray' => false, 'frames' => 0, 'lost' => 0, 'is_lost' => false, 'points' => 0];

    protected function casts(): array
    {
        return ['scanner' => 'array', 'look' => 'array', 'coverage' => 'array', 'stands_at' => 'array', 'spray' => 'boolean', 'is_lost' => 'boolean', 'points' => 'integer', 'beat_at' => 'datetime', 'active_at' => 'datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    public function isSilent(): bool
    {
        return in_array($this->state, ['waiting', 'running'], true) && ($this->beat_at ?? $this->created_at)?->diffInSeconds(now()) > self::SILENT_S;
    }

    /** Takes a frame in. Frames of one capture come one after the other; a second one waits for the lock. */
    public function take(Frame $frame, string $bytes): void
    {
        $lock = fopen($this->folder().'/lock', 'c');
        assert($lock !== false);
        flock($lock, LOCK_EX);
        try {
            $this->refresh();
            $number = $this->frames + 1;
            if (! $frame->lost) {
                file_put_contents(sprintf('%s/%06d.frame', $this->folder(), $number), $bytes);
                $coverage = $this->coverageSoFar();
                $coverage->add($frame->placed());
                // Looked at while the next frame comes: whoever reads it finds the one before or this one, whole.
                File::replace($this->folder().'/coverage', $coverage->toBytes());
                $this->coverage = $coverage->figures();
            }
            $this->update([
                'state' => $this->state === 'waiting' ? 'running' : $this->state, 'frames' => $number, 'lost' => $this->lost + ($frame->lost ? 1 : 0), 'is_lost' => $frame->lost,
                'points' => $this->points + $frame->cloud->count(), 'stands_at' => $frame->pose->point($frame->cloud->sensorOrigin ?? [0.0, 0.0, 0.0]), 'beat_at' => now(), 'active_at' => now(),
            ]);
        } finally {
            fclose($lock);
        }
    }

    public function coverageSoFar(): Coverage
    {
        $file = $this->folder().'/coverage';

        return is_file($file) ? Coverage::fromBytes((string) file_get_contents($file)) : Coverage::empty();
    }

    /** @return \Generator<int, Frame> in the order they came */
    public function eachFrame(): \Generator
    {
        $files = glob($this->folder().'/*.frame') ?: [];
        sort($files);
        foreach ($files as $file) {
            yield Frame::decode((string) file_get_contents($file));
        }
    }

    public function folder(): string
    {
        $folder = storage_path("captures/{$this->id}");
        is_dir($folder) || File::ensureDirectoryExists($folder, 0770);

        return $folder;
    }

    /** Ends captures that nobody feeds or steers any more, and forgets those that nobody finished. */
    public static function expire(): void
    {
        $idle = fn (\DateTimeInterface $since) => self::query()->where(fn (Builder $query) => $query->where('active_at', '<', $since)->orWhere(fn (Builder $never) => $never->whereNull('active_at')->where('created_at', '<', $since)));
        $idle(now()->subMinutes(self::IDLE_MINUTES))->whereIn('state', self::OPEN)->update(['state' => 'failed', 'message' => sprintf('Nothing came in for %d minutes, so the capture has ended. What it delivered is kept for %d days: finish it, or drop it.', self::IDLE_MINUTES, self::KEPT_DAYS)]);
        foreach ($idle(now()->subDays(self::KEPT_DAYS))->whereIn('state', ['failed', 'ended'])->get() as $capture) {
            $capture->forget();
        }
    }

    public function forget(): void
    {
        File::deleteDirectory($this->folder());
        $this->delete();
    }

    /** @return array<string, mixed> as the window shows it */
    public function toState(): array
    {
        return [
            'id' => $this->id, 'state' => $this->state, 'scanner' => $this->scanner, 'frames' => $this->frames, 'lost' => $this->lost, 'isLost' => $this->is_lost, 'points' => $this->points,
            'coverage' => $this->coverage, 'standsAt' => $this->stands_at, 'message' => $this->message, 'silent' => $this->isSilent(),
        ];
    }
}
