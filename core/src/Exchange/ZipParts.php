<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;
use ZipArchive;

/**
 * An open zip container. Nothing is unpacked under a name or into a folder of the container's choosing, and sizes are bounded by what really
 * comes out, whatever the container says of itself.
 *
 * @internal
 */
final class ZipParts
{
    /** How many times as large as it is packed a part may be; text of points and meshes packs to a tenth or so. */
    private const RATIO = 200;

    private const LARGEST = 4 << 30;

    private const ENTRIES = 10000;

    private function __construct(private readonly string $path, private readonly ZipArchive $zip)
    {
    }

    /**
     * The parts of a zip container.
     *
     * @throws UnreadableFile when it is damaged, is none, or holds more parts than any scan
     */
    public static function open(string $path): self
    {
        if (! class_exists(ZipArchive::class)) {
            throw UnreadableFile::at($path, '', 'PHP has no zip extension here; install php8.2-zip and read it again');
        }
        $zip = new ZipArchive;
        if ($zip->open($path, ZipArchive::RDONLY) !== true) {
            throw UnreadableFile::at($path, '', 'it is no zip container, or a damaged one; copy it again');
        }
        if ($zip->numFiles > self::ENTRIES) {
            $zip->close();
            throw UnreadableFile::at($path, '', 'the container holds more than '.self::ENTRIES.' parts');
        }

        return new self($path, $zip);
    }

    public function close(): void
    {
        $this->zip->close();
    }

    /** @return list<string> the names of its parts, folders left out */
    public function names(): array
    {
        $names = [];
        for ($k = 0; $k < $this->zip->numFiles; $k++) {
            $name = (string) $this->zip->getNameIndex($k);
            if ($name !== '' && ! str_ends_with($name, '/')) {
                $names[] = $name;
            }
        }

        return $names;
    }

    public function has(string $name): bool
    {
        return $this->zip->locateName($name) !== false;
    }

    /** A part as text. */
    public function text(string $name): string
    {
        $file = OwnFile::make();
        try {
            $this->unpack($name, $file);

            return (string) file_get_contents($file);
        } finally {
            @unlink($file);
        }
    }

    /**
     * Copies a part into a file of ours, counting what really comes out; damage shows as too little of it.
     *
     * @throws UnreadableFile when the part is locked, missing, damaged or far larger than what it was packed from
     */
    public function unpack(string $name, string $file): void
    {
        $stat = $this->zip->statName($name);
        if (($stat['encryption_method'] ?? 0) !== 0) {
            throw UnreadableFile::at($this->path, $name, 'the part is locked with a password; pack it without one');
        }
        $in = $stat === false ? false : $this->zip->getStream($name);
        if ($stat === false || $in === false) {
            throw UnreadableFile::at($this->path, '', "the part \"$name\" is named but is not there");
        }
        $most = min(self::LARGEST, 1_000_000 + self::RATIO * $stat['comp_size']);
        $out = fopen($file, 'wb');
        assert($out !== false);
        $copied = (int) @stream_copy_to_stream($in, $out, $most + 1);
        fclose($in);
        fclose($out);
        if ($copied > $most) {
            throw UnreadableFile::at($this->path, $name, 'the part is far larger than what it was packed from; that is no scan');
        }
        if ($copied < $stat['size']) {
            throw UnreadableFile::at($this->path, $name, 'the part is damaged; copy the file again');
        }
    }
}
