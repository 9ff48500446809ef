<?php

declare(strict_types=1);

namespace App\Services;

use Emberstone\Core\Foundation\UnsuitableInput;

/**
 * The bytes of an upload: a file, and behind it parts that have arrived since. A part that the web server has stored is taken over
 * under a second name instead of being copied; parts are joined to the file when somebody reads it.
 */
final readonly class UploadParts
{
    public function __construct(private string $path)
    {
    }

    /** Bytes that have arrived. */
    public function size(): int
    {
        $parts = $this->parts();
        clearstatcache();

        return $parts === [] ? (is_file($this->path) ? (int) filesize($this->path) : 0) : array_key_last($parts) + (int) filesize(end($parts));
    }

    /**
     * Takes the next bytes in; the caller holds the lock of the upload.
     *
     * @param  string|resource  $source  a file of the web server's, which may vanish afterwards, or a stream
     * @param  int  $most  what comes beyond this is left
     */
    public function take(mixed $source, int $most): void
    {
        $part = sprintf('%s.part-%015d', $this->path, $this->size());
        if (is_string($source)) {
            clearstatcache(true, $source);
            if (filesize($source) <= $most && @link($source, $part)) {
                return;
            }
            $source = fopen($source, 'rb');
        }
        $file = fopen($part, 'wb');
        if ($source === false || $file === false || stream_copy_to_stream($source, $file, $most) === false || ! fclose($file)) {
            throw self::full();
        }
    }

    /** Joins what has arrived into one file; cut off in the middle, it goes on where it was the next time. */
    public function whole(): string
    {
        $file = $this->locked(LOCK_EX) ?? throw UnsuitableInput::because('The upload is not there any more; drop the file again.');
        foreach ($this->parts() as $offset => $part) {
            $from = fopen($part, 'rb');
            fseek($file, $offset);
            // A full disk takes a part of it and says nothing: the part goes only when all of it has arrived.
            if ($from === false || stream_copy_to_stream($from, $file) !== filesize($part) || ! fflush($file)) {
                throw self::full();
            }
            unlink($part);
        }
        fclose($file);

        return $this->path;
    }

    /**
     * @param  int<0, 7>  $how  a lock of flock
     * @return resource|null the file, locked until it is closed; null when another connection holds it, or it was removed: what is opened here is never made anew
     */
    public function locked(int $how): mixed
    {
        $file = @fopen($this->path, 'r+b');

        return $file !== false && flock($file, $how) ? $file : null;
    }

    private static function full(): UnsuitableInput
    {
        return UnsuitableInput::because('The upload cannot be stored: the disk of this machine may be full. Free some space and drop the file again; what was sent is kept.');
    }

    /** Takes all of it away, after whoever is writing to it. */
    public function remove(): void
    {
        $lock = $this->locked(LOCK_EX);
        foreach ([...$this->parts(), $this->path] as $file) {
            @unlink($file);
        }
        $lock === null || fclose($lock);
    }

    /** @return array<int, string> path by the offset where it begins, ascending */
    private function parts(): array
    {
        $parts = [];
        foreach (glob($this->path.'.part-*') ?: [] as $part) {
            $parts[(int) substr($part, -15)] = $part;
        }

        return $parts;
    }
}
