<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\UnreadableFile;

/**
 * A mesh's blob, of which only what is asked for is read: a request that looks at a few thousand faces of four million needs neither
 * the time nor the memory for the rest.
 */
final class OpenBlob
{
    /** Records read at once: neighbours in a mesh mostly are neighbours in its lists. */
    private const PAGE = 32;

    /** Bytes of a record: three numbers of four. */
    private const RECORD = 12;

    /** Pages kept of each section: those that the edge of a growing area of some ten thousand faces touches. */
    private const PAGES = 128;

    /** @var array<string, mixed> as Blob::head() gives it */
    public readonly array $head;

    /** @var array<string, int> where each section begins */
    private readonly array $starts;

    /** @var array<int, list<float>> numbers of the pages read last, by page; a list for each section, as one list of all costs a look-up more in every read */
    private array $positions = [];

    /** @var array<int, list<int>> */
    private array $faces = [];

    /** @var array<int, list<int>> */
    private array $adjacency = [];

    /** @var array<string, string> how a whole page of a section is unpacked */
    private readonly array $formats;

    /** @param  resource|string  $source an open file or the bytes themselves */
    private function __construct(private readonly mixed $source)
    {
        $length = (unpack('V', str_pad($this->read(8, 4), 4, "\0")) ?: [1 => 0])[1];
        $this->head = Blob::head($this->read(0, 12 + $length));
        $ints = Packed::format('V', 3 * self::PAGE);
        $this->formats = ['positions' => Packed::format('g', 3 * self::PAGE), 'faces' => $ints, 'adjacency' => $ints];
        $this->starts = array_map(fn (array $section) => $section['offset'], $this->head['sections']);
    }

    /**
     * The geometry stored in a file, which stays open.
     *
     * @throws UnreadableFile when it is not there
     */
    public static function file(string $path): self
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            throw UnreadableFile::at(basename($path), 'start', 'the stored geometry is not there');
        }

        // Without it each page of some hundred bytes would be read with eight thousand around it.
        stream_set_read_buffer($file, 0);

        return new self($file);
    }

    public static function bytes(string $blob): self
    {
        return new self($blob);
    }

    /**
     * @param  'faces'|'adjacency'  $section
     * @return array{int, int, int} the corners of a face, or the faces across its edges (0xFFFFFFFF for none)
     */
    public function ints(string $section, int $face): array
    {
        $page = ($section === 'faces' ? $this->faces[$face >> 5] ?? null : $this->adjacency[$face >> 5] ?? null) ?? $this->page($section, $face >> 5);
        $o = 3 * ($face & 31);

        return [$page[$o], $page[$o + 1], $page[$o + 2]];
    }

    /** @return array{float, float, float} coordinates of a vertex from the blob's origin */
    public function position(int $vertex): array
    {
        $page = $this->positions[$vertex >> 5] ?? $this->page('positions', $vertex >> 5);
        $o = 3 * ($vertex & 31);

        return [$page[$o], $page[$o + 1], $page[$o + 2]];
    }

    /** @return array{float, float, float, float, float, float, float, float, float} coordinates of a face's corners from the blob's origin */
    public function triangle(int $face): array
    {
        $page = $this->faces[$face >> 5] ?? $this->page('faces', $face >> 5);
        $o = 3 * ($face & 31);
        [$a, $b, $c] = [$page[$o], $page[$o + 1], $page[$o + 2]];
        $A = $this->positions[$a >> 5] ?? $this->page('positions', $a >> 5);
        $B = $this->positions[$b >> 5] ?? $this->page('positions', $b >> 5);
        $C = $this->positions[$c >> 5] ?? $this->page('positions', $c >> 5);
        $a = 3 * ($a & 31);
        $b = 3 * ($b & 31);
        $c = 3 * ($c & 31);

        return [$A[$a], $A[$a + 1], $A[$a + 2], $B[$b], $B[$b + 1], $B[$b + 2], $C[$c], $C[$c + 1], $C[$c + 2]];
    }

    /**
     * @param  'positions'|'faces'|'adjacency'  $section
     * @return ($section is 'positions' ? list<float> : list<int>)
     */
    private function page(string $section, int $page): array
    {
        $bytes = $this->read($this->starts[$section] + $page * self::PAGE * self::RECORD, self::PAGE * self::RECORD);
        $numbers = array_values(unpack(strlen($bytes) === self::PAGE * self::RECORD ? $this->formats[$section] : $this->formats[$section][0].'*', $bytes) ?: []);
        if (count($this->{$section}) >= self::PAGES) {
            // @phpstan-ignore assign.propertyType, assign.propertyType (what a section holds is said by its format)
            unset($this->{$section}[array_key_first($this->{$section})]);
        }

        return $this->{$section}[$page] = $numbers;
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
