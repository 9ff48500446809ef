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
    /** Records read at once: neighbours in a mesh mostly are neighbours in its lists. */
    private const PAGE = 32;

    /** Bytes of a record: three numbers of four. */
    private const RECORD = 12;

    /** Pages kept: those that the edge of a growing area of some ten thousand faces touches. */
    private const PAGES = 384;

    /** @var array<string, mixed> as Blob::head() gives it */
    public readonly array $head;

    /** @var array<string, int> where each section begins */
    private readonly array $starts;

    /** @var array<string, array<int, array<int, float>|array<int, int>>> numbers of the pages read last, counted from 1, by section and page */
    private array $pages = ['positions' => [], 'faces' => [], 'adjacency' => []];

    private int $kept = 0;

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

        // Without it each page of some hundred bytes would be read with eight thousand around it.
        stream_set_read_buffer($file, 0);

        return new self($file);
    }

    public static function bytes(string $blob): self
    {
        return new self($blob);
    }

    /** @return array{int, int, int} the corners of a face, or the faces across its edges (0xFFFFFFFF for none) */
    public function ints(string $section, int $face): array
    {
        $page = $this->pages[$section][$face >> 5] ?? $this->page($section, $face >> 5);
        $o = 3 * ($face & 31);

        return [$page[$o + 1], $page[$o + 2], $page[$o + 3]];
    }

    /** @return array{float, float, float} coordinates of a vertex from the blob's origin */
    public function position(int $vertex): array
    {
        $page = $this->pages['positions'][$vertex >> 5] ?? $this->page('positions', $vertex >> 5);
        $o = 3 * ($vertex & 31);

        return [$page[$o + 1], $page[$o + 2], $page[$o + 3]];
    }

    /** @return array{float, float, float, float, float, float, float, float, float} coordinates of a face's corners from the blob's origin */
    public function triangle(int $face): array
    {
        $page = $this->pages['faces'][$face >> 5] ?? $this->page('faces', $face >> 5);
        $o = 3 * ($face & 31);
        [$a, $b, $c] = [$page[$o + 1], $page[$o + 2], $page[$o + 3]];
        $A = $this->pages['positions'][$a >> 5] ?? $this->page('positions', $a >> 5);
        $B = $this->pages['positions'][$b >> 5] ?? $this->page('positions', $b >> 5);
        $C = $this->pages['positions'][$c >> 5] ?? $this->page('positions', $c >> 5);
        $a = 3 * ($a & 31);
        $b = 3 * ($b & 31);
        $c = 3 * ($c & 31);

        return [$A[$a + 1], $A[$a + 2], $A[$a + 3], $B[$b + 1], $B[$b + 2], $B[$b + 3], $C[$c + 1], $C[$c + 2], $C[$c + 3]];
    }

    /** @return array<int, float>|array<int, int> */
    private function page(string $section, int $page): array
    {
        if ($this->kept >= self::PAGES) {
            // The one read first, of the section that has most.
            $most = 'positions';
            foreach ($this->pages as $name => $pages) {
                $most = count($pages) > count($this->pages[$most]) ? $name : $most;
            }
            unset($this->pages[$most][array_key_first($this->pages[$most])]);
            $this->kept--;
        }
        $bytes = $this->read($this->starts[$section] + $page * self::PAGE * self::RECORD, self::PAGE * self::RECORD);
        $this->kept++;

        return $this->pages[$section][$page] = unpack($section === 'positions' ? 'g*' : 'V*', $bytes) ?: [];
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
