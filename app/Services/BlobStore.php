<?php

declare(strict_types=1);

namespace App\Services;

use Emberstone\Core\Exchange\StandIn;
use Illuminate\Support\Facades\DB;
use PDO;
use RuntimeException;

/** Immutable bytes named by their SHA-256: rows of 1 MiB in the database, copies in a cache folder that may be deleted at any time. */
final class BlobStore
{
    private const CHUNK = 1 << 20;

    public function __construct(private readonly string $cache)
    {
    }

    /** Takes part in the transaction that is open. */
    public function put(string $bytes): string
    {
        $hash = hash('sha256', $bytes);
        $this->store($hash, strlen($bytes), fn () => str_split($bytes, self::CHUNK));
        $this->keep($hash, $bytes);

        return $hash;
    }

    /** The same from a file, which goes into the cache; a gigabyte never stands in memory whole. */
    public function putFile(string $path): string
    {
        $hash = (string) hash_file('sha256', $path);
        $this->store($hash, (int) filesize($path), fn () => self::chunks($path));
        $cached = $this->cachePath($hash);
        if (! is_file($cached)) {
            $this->folder($cached);
            copy($path, $beside = $cached.'.'.bin2hex(random_bytes(4)));
            rename($beside, $cached);
        }

        return $hash;
    }

    /**
     * The row and all chunks, or nothing. A blob that is there is taken for whole only if it has all its chunks; what is missing is added.
     *
     * @param  callable(): iterable<int, string>  $chunks
     */
    private function store(string $hash, int $size, callable $chunks): void
    {
        $write = fn () => DB::transaction(function () use ($hash, $size, $chunks): void {
            if (DB::table('blobs')->insertOrIgnore(['hash' => $hash, 'size' => $size]) === 0) {
                // Young again: the sweep leaves it until the step that is about to name it has ended.
                DB::table('blobs')->where('hash', $hash)->update(['created_at' => now()]);
                if (DB::table('blob_chunks')->where('hash', $hash)->count() === (int) ceil($size / self::CHUNK)) {
                    return;
                }
            }
            $statement = DB::getPdo()->prepare('insert into blob_chunks (hash, position, bytes) values (?, ?, ?) on conflict do nothing');
            foreach ($chunks() as $k => $bytes) {
                $statement->bindValue(1, $hash);
                $statement->bindValue(2, $k, PDO::PARAM_INT);
                $statement->bindValue(3, $bytes, PDO::PARAM_LOB);
                $statement->execute();
            }
        });
        // Inside a transaction of somebody else's it cannot be done again alone.
        DB::transactionLevel() > 0 ? $write() : LostConnection::outlasted($write);
    }

    /** Do the bytes in the database have the hash that names them? */
    public function isIntact(string $hash): bool
    {
        $context = hash_init('sha256');
        foreach ($this->stored($hash) as $bytes) {
            hash_update($context, $bytes);
        }

        return hash_final($context) === $hash;
    }

    /** Writes a damaged blob anew from the copy in the cache; false when there is none that is whole. */
    public function mend(string $hash): bool
    {
        $copy = $this->cachePath($hash);
        if (! is_file($copy) || hash_file('sha256', $copy) !== $hash) {
            return false;
        }
        DB::transaction(function () use ($hash, $copy): void {
            DB::table('blob_chunks')->where('hash', $hash)->delete();
            $this->store($hash, (int) filesize($copy), fn () => self::chunks($copy));
        });

        return true;
    }

    /** Drops the bytes of a damaged blob, so that whoever brings the right ones again makes it whole. */
    public function clear(string $hash): void
    {
        DB::table('blob_chunks')->where('hash', $hash)->delete();
    }

    /** @return \Generator<int, string> the bytes in the database, a chunk at a time */
    private function stored(string $hash): \Generator
    {
        $positions = DB::table('blob_chunks')->where('hash', $hash)->count();
        for ($k = 0; $k < $positions; $k++) {
            $chunk = DB::table('blob_chunks')->where(['hash' => $hash, 'position' => $k])->value('bytes');
            yield is_resource($chunk) ? (string) stream_get_contents($chunk) : (string) $chunk;
        }
    }

    /** @return \Generator<int, string> */
    private static function chunks(string $path): \Generator
    {
        $file = fopen($path, 'rb');
        assert($file !== false);
        while (($bytes = (string) stream_get_contents($file, self::CHUNK)) !== '') {
            yield $bytes;
        }
        fclose($file);
    }

    public function get(string $hash): string
    {
        return (string) file_get_contents($this->path($hash));
    }

    /** A local copy, fetched from the database when there is none. */
    public function path(string $hash): string
    {
        $path = $this->cachePath($hash);
        if (is_file($path)) {
            return $path;
        }
        $this->folder($path);
        $beside = $path.'.'.bin2hex(random_bytes(4));
        $fetch = function () use ($hash, $beside): void {
            $file = fopen($beside, 'wb');
            assert($file !== false);
            foreach ($this->stored($hash) as $bytes) {
                fwrite($file, $bytes);
            }
            fclose($file);
        };
        DB::transactionLevel() > 0 ? $fetch() : LostConnection::outlasted($fetch);
        if (hash_file('sha256', $beside) !== $hash) {
            unlink($beside);
            throw new RuntimeException("Blob $hash is not in the database, or damaged there.");
        }
        rename($beside, $path);

        return $path;
    }

    /** A lighter stand-in of a cloud, made when it is first asked for; it lives in the cache only. */
    public function standIn(string $hash, int $every): string
    {
        $path = $this->cachePath($hash)."-$every";
        if (! is_file($path)) {
            $whole = $this->path($hash);
            $beside = $path.'.'.bin2hex(random_bytes(4));
            file_put_contents($beside, StandIn::of($whole, $every));
            rename($beside, $path);
        }

        return $path;
    }

    /** Where the still of a pass or body is, if somebody's view has drawn one; it lives in the cache only. */
    public function picturePath(string $hash): string
    {
        return $this->cachePath($hash).'-still.png';
    }

    /** Keeps a still for lists of projects. */
    public function keepPicture(string $hash, string $png): void
    {
        $path = $this->picturePath($hash);
        $this->folder($path);
        $beside = $path.'.'.bin2hex(random_bytes(4));
        file_put_contents($beside, $png);
        rename($beside, $path);
    }

    public function forget(string $hash): void
    {
        foreach (glob($this->cachePath($hash).'-*') ?: [] as $standIn) {
            @unlink($standIn);
        }
        DB::table('blobs')->where('hash', $hash)->delete();
        @unlink($this->cachePath($hash));
    }

    private function cachePath(string $hash): string
    {
        return $this->cache.'/'.substr($hash, 0, 2).'/'.$hash;
    }

    private function keep(string $hash, string $bytes): void
    {
        $path = $this->cachePath($hash);
        if (is_file($path)) {
            return;
        }
        $this->folder($path);
        $beside = $path.'.'.bin2hex(random_bytes(4));
        file_put_contents($beside, $bytes);
        rename($beside, $path);
    }

    private function folder(string $path): void
    {
        is_dir(dirname($path)) || @mkdir(dirname($path), 0775, true);
    }
}
