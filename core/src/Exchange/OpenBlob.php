<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Operation\UnreadableFile;

/**
 * A mesh's blob, of which only what is asked for is read: a request that looks at a few thousand faces of four million needs neither
 * the time nor the memory for the rest.
 */
final class OpenBlob
{
    /** Bytes read at once: whole records of twelve, and some hundred faces that mostly are neighbours. */
    private const PAGE = 12 * 256;

    /** Pages kept. */
    private const PAGES = 128;

    /** @var array<string, mixed> as Blob::head() gives it */
    public readonly array $head;

    /** @var array<string, int> where each section begins */
    private readonly array $starts;

    /** @var array<int, string> by offset in the blob */
    private array $pages = [];

    /** @param  resource|string  $source an open file or the bytes themselves */
    private function __construct(private readonly mixed $source)
    {
        $length = (unpack('V', str_pad($this->read(8, 4), 4, "\0")) ?: [1 => 0])[1];
        $this->head = Blob::head($this->read(0, 12 + $length));
        $this->starts = array_map(fn (array $section) => $section['offset'], $this->head['sections']);
    }

    public static function file(string $path): self
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            throw UnreadableFile::at(basename($path), 'start', 'the stored geometry is not there');
        }

        return new self($file);
    }

    public static function bytes(string $blob): self
    {
        return new self($blob);
    }

    /** @return array{1: int, 2: int, 3: int} the corners of a face, or the faces across its edges (0xFFFFFFFF for none) */
    public function ints(string $section, int $face): array
    {
        return unpack('V3', $this->page($section, $face), ($face & 255) * 12) ?: [1 => 0, 2 => 0, 3 => 0];
    }

    /** @return array{1: float, 2: float, 3: float} coordinates of a vertex from the blob's origin */
    public function position(int $vertex): array
    {
        return unpack('g3', $this->page('positions', $vertex), ($vertex & 255) * 12) ?: [1 => 0.0, 2 => 0.0, 3 => 0.0];
    }

    /** The page with a record. */
    private function page(string $section, int $record): string
    {
        $offset = $this->starts[$section] + ($record >> 8) * self::PAGE;
        $page = $this->pages[$offset] ?? null;
        if ($page === null) {
            if (count($this->pages) >= self::PAGES) {
                $this->pages = [];
            }
            $page = $this->pages[$offset] = $this->read($offset, self::PAGE);
        }

        return $page;
    }

    private function read(int $offset, int $length): string
    {
        if (is_string($this->source)) {
            return substr($this->source, $offset, $length);
        }
        fseek($this->source, $offset);

        return (string) fread($this->source, max(1, $length));
    }
}
