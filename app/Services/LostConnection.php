<?php

declare(strict_types=1);

namespace App\Services;

use Illuminate\Database\LostConnectionDetector;
use Illuminate\Database\QueryException;
use PDOException;
use Throwable;

/** What to do when the database goes away for a moment, as in a restart: wait for it, and tell that apart from a query that is wrong. */
final class LostConnection
{
    /** Times that a lost connection is tried again, one second apart: a restart after a power cut replays its log within that. */
    private const TRIES = 30;

    /** What PostgreSQL says when there is no connection (class 08), or it is being shut down or started (57P01 to 57P03). */
    private const STATES = '/SQLSTATE\[(08\d\d\d|57P0[123])\]/';

    /**
     * Does a piece of work in which nothing but queries happens, again where the connection was lost in it.
     *
     * @template T
     *
     * @param  callable(): T  $work  that leaves nothing behind when it breaks off: one query, or one transaction
     * @return T
     */
    public static function outlasted(callable $work): mixed
    {
        return retry(self::TRIES, $work, 1000, self::isReasonOf(...));
    }

    public static function isReasonOf(Throwable $problem): bool
    {
        return ($problem instanceof QueryException || $problem instanceof PDOException) && (preg_match(self::STATES, $problem->getMessage()) === 1 || (new LostConnectionDetector)->causedByLostConnection($problem));
    }
}
