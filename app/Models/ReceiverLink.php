<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Concerns\HasUuids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * An address by which somebody without an account sees what was handed over, until it expires or is closed. Only a hash of its token is kept: whoever reads the database cannot open it.
 *
 * @property string $id
 * @property string $project_id
 * @property int $step_id the step that handed over
 * @property string $artefact what was handed over
 * @property string $token_hash
 * @property string $made_by name of who made it
 * @property-read \Illuminate\Support\Carbon $expires_at
 * @property-read \Illuminate\Support\Carbon|null $closed_at
 * @property-read \Illuminate\Support\Carbon $created_at
 * @property-read Step $step
 * @property-read Project $project
 */
final class ReceiverLink extends Model
{
    use HasUuids;

    /** Days that it may be open at most. */
    public const MOST_DAYS = 365;

    /** Random bytes of a token: as many as nobody can try. */
    private const TOKEN_BYTES = 32;

    protected $fillable = ['project_id', 'step_id', 'artefact', 'token_hash', 'made_by', 'expires_at', 'closed_at'];

    /** @return string 64 hexadecimal digits */
    public static function newToken(): string
    {
        return bin2hex(random_bytes(self::TOKEN_BYTES));
    }

    /** @return string what is kept of a token: 64 hexadecimal digits of its SHA-256 */
    public static function hashOf(string $token): string
    {
        return hash('sha256', $token);
    }

    /** @return Builder<self> the link of a token, open or not */
    public static function ofToken(string $token): Builder
    {
        return self::query()->where('token_hash', self::hashOf($token));
    }

    /** @return string `open`, `closed` or `expired` */
    public function state(): string
    {
        return $this->closed_at !== null ? 'closed' : ($this->expires_at->isPast() ? 'expired' : 'open');
    }

    /** @return BelongsTo<Step, $this> */
    public function step(): BelongsTo
    {
        return $this->belongsTo(Step::class);
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return HasMany<ReceiverVisit, $this> */
    public function visits(): HasMany
    {
        return $this->hasMany(ReceiverVisit::class);
    }

    protected function casts(): array
    {
        return ['expires_at' => 'datetime', 'closed_at' => 'datetime'];
    }
}
