<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * Something that the keepers of an installation turn on or off; off until they do.
 *
 * @property string $name
 * @property bool $is_on
 */
final class Setting extends Model
{
    /** Links by which receivers without an account see what was handed over to them. */
    public const RECEIVER_LINKS = 'receiver-links';

    public $incrementing = false;

    protected $primaryKey = 'name';

    protected $keyType = 'string';

    protected $fillable = ['name', 'is_on'];

    /** @param  string  $name  one of the constants here; off where nobody has turned it on */
    public static function isOn(string $name): bool
    {
        return (bool) self::query()->find($name)?->is_on;
    }

    /** @param  string  $name  one of the constants here */
    public static function turn(string $name, bool $isOn): void
    {
        self::query()->updateOrCreate(['name' => $name], ['is_on' => $isOn]);
    }

    protected function casts(): array
    {
        return ['is_on' => 'boolean'];
    }
}
