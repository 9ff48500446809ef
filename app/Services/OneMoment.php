<?php

declare(strict_types=1);

namespace App\Services;

use Illuminate\Support\Facades\DB;

/**
 * Reads several tables as they were at one moment. Each query sees what was committed before it began: a step that ends between two of them would be in neither of what they
 * read, not yet at the head and no longer at work.
 */
final class OneMoment
{
    /**
     * @template T
     *
     * @param  callable(): T  $read  queries that write nothing
     * @return T
     */
    public static function of(callable $read): mixed
    {
        // Within a transaction it is too late to choose how it sees the others; its caller has chosen.
        return DB::transactionLevel() > 0 ? $read() : DB::transaction(function () use ($read): mixed {
            DB::statement('set transaction isolation level repeatable read, read only');

            return $read();
        });
    }
}
