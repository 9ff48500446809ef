<?php

declare(strict_types=1);

namespace App\Services;

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
        $new = DB::table('blobs')->insertOrIgnore(['hash' => $hash, 'size' => strlen($bytes)]);
        if ($new > 0) {
            $statement = DB::getPdo()->prepare('insert into blob_chunks (hash, position, bytes) values (?, ?, ?)');
            for ($k = 0, $n = (int) ceil(strlen($bytes) / self::CHUNK); $k < $n; $k++) {
                $statement->bindValue(1, $hash);
                $statement->bindValue(2, $k, PDO::PARAM_INT);
                $statement->bindValue(3, substr($bytes, $k * self::CHUNK, self::CHUNK), PDO::PARAM_LOB);
                $statement->execute();
            }
        }
        $this->keep($hash, $bytes);

        return $hash;
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
        $bytes = '';
        foreach (DB::table('blob_chunks')->where('hash', $hash)->orderBy('position')->pluck('bytes') as $chunk) {
            $bytes .= is_resource($chunk) ? stream_get_contents($chunk) : $chunk;
        }
        if (hash('sha256', $bytes) !== $hash) {
            throw new RuntimeException("Blob $hash is not in the database, or damaged there.");
        }
        $this->keep($hash, $bytes);

        return $path;
    }

    public function forget(string $hash): void
    {
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
        $folder = dirname($path);
        is_dir($folder) || @mkdir($folder, 0775, true);
        $beside = $path.'.'.bin2hex(random_bytes(4));
        file_put_contents($beside, $bytes);
        rename($beside, $path);
    }
}
