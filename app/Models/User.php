<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Foundation\Auth\User as Authenticatable;

/**
 * Somebody who may sign in.
 *
 * @property int $id
 * @property string $name
 * @property string $email
 * @property bool $is_keeper looks after the installation: sees what takes its space
 */
final class User extends Authenticatable
{
    protected $fillable = ['name', 'email', 'password', 'is_keeper'];

    protected $attributes = ['is_keeper' => false];

    protected $hidden = ['password', 'remember_token'];

    protected function casts(): array
    {
        return ['password' => 'hashed', 'is_keeper' => 'boolean'];
    }

    /** @return HasMany<Project, $this> */
    public function projects(): HasMany
    {
        return $this->hasMany(Project::class, 'owner_id');
    }
}
