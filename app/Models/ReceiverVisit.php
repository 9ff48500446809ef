<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * One look through a receiver's link, or one file taken.
 *
 * @property string $took the name of a file, `the report`, `all files`, or `the page`
 * @property string|null $address
 * @property string $browser
 * @property-read \Illuminate\Support\Carbon $created_at
 */
final class ReceiverVisit extends Model
{
    public const UPDATED_AT = null;

    protected $fillable = ['receiver_link_id', 'took', 'address', 'browser'];
}
