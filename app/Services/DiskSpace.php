<?php

declare(strict_types=1);

namespace App\Services;

use Closure;
use Throwable;

/** How full the disk is that holds uploads, the cache and temporary files, and what to say when it is. */
final class DiskSpace
{
    /** From this share on everybody at work is warned. */
    public const LITTLE = 0.9;

    /** From this share on no new upload is taken: all else must go on working. */
    public const FULL = 0.97;

    /** A step that failed while fewer bytes than this were free failed for it. */
    private const NOTHING = 32 * 1024 ** 2;

    /** What PHP, the system and PostgreSQL say of a full disk. */
    private const SAID = '/No space left on device|could not extend file|Disk full|SQLSTATE\[53100\]|failed to open stream: Disk quota/i';

    /** @param  (Closure(): array{float, float})|null  $measured  free bytes and all bytes; of the storage folder when null */
    public function __construct(private readonly ?Closure $measured = null)
    {
    }

    /** The share in use, 0 to 1. */
    public function used(): float
    {
        [$free, $all] = $this->bytes();

        return $all > 0.0 ? 1.0 - $free / $all : 0.0;
    }

    public function free(): float
    {
        return $this->bytes()[0];
    }

    public function isFull(): bool
    {
        return $this->used() >= self::FULL;
    }

    public function isReasonOf(Throwable $problem): bool
    {
        return preg_match(self::SAID, $problem->getMessage()) === 1 || $this->free() < self::NOTHING;
    }

    /** @return array{float, float} */
    private function bytes(): array
    {
        return $this->measured !== null ? ($this->measured)() : [(float) @disk_free_space(storage_path()), (float) @disk_total_space(storage_path())];
    }
}
