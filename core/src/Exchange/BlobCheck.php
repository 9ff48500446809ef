<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;

/** Whether a blob that came from elsewhere is what its head says, so that whoever reads it later need not ask: sections inside the file and of the right length, numbers of faces and points that exist, finite coordinates. */
final class BlobCheck
{
    /** Bytes of an element, and how many elements a point or a face has. */
    private const SECTIONS = [
        'positions' => [4, 'points', 3], 'normals' => [4, 'points', 3], 'colours' => [4, 'points', 1], 'confidence' => [4, 'points', 1], 'cells' => [4, 'points', 1], 'mask' => [1, 'points', 1], 'support' => [1, 'points', 1],
        'spread' => [2, 'points', 1], 'weight' => [2, 'points', 1], 'faces' => [4, 'faces', 3], 'adjacency' => [4, 'faces', 3], 'faceOrigin' => [1, 'faces', 1], 'quads' => [4, 'quads', 1],
    ];

    /** Bytes that are looked at at once. */
    private const PORTION = 3 << 18;

    /** Bytes of a head: a raster and bounds take some hundred. */
    private const MOST_HEAD = 1 << 20;

    /**
     * @param  string  $name  of the blob, for messages
     * @return array<string, mixed> the head
     *
     * @throws UnreadableFile with what is wrong
     */
    public static function of(string $path, string $name): array
    {
        $file = fopen($path, 'rb');
        assert($file !== false);
        try {
            $length = (unpack('V', str_pad((string) stream_get_contents($file, 4, 8), 4, "\0")) ?: [1 => 0])[1];
            if ($length > self::MOST_HEAD) {
                throw UnreadableFile::at($name, 'head', 'the head of the geometry is larger than any');
            }
            try {
                $head = Blob::head((string) stream_get_contents($file, 12 + $length, 0));
            } catch (\JsonException|\TypeError|\AssertionError) {
                throw UnreadableFile::at($name, 'head', 'the head of the geometry is no JSON');
            }
            $counts = ['points' => self::count($head, 'points', $name), 'faces' => self::count($head, 'faces', $name), 'quads' => self::count($head, 'quads', $name)];
            foreach ($head['sections'] as $section => $at) {
                self::section($file, (int) filesize($path), (string) $section, $at, $counts, $name);
            }
        } finally {
            fclose($file);
        }

        return $head;
    }

    /** @param  array<string, mixed>  $head */
    private static function count(array $head, string $of, string $name): int
    {
        $count = $head[$of] ?? 0;

        return is_int($count) && $count >= 0 && $count < 1 << 32 ? $count : throw UnreadableFile::at($name, 'head', "the number of $of is none");
    }

    /**
     * @param  resource  $file
     * @param  array<string, int>  $counts
     */
    private static function section($file, int $size, string $section, mixed $at, array $counts, string $name): void
    {
        [$bytes, $of, $each] = self::SECTIONS[$section] ?? throw UnreadableFile::at($name, $section, 'this release knows no such section');
        $expected = $bytes * $each * $counts[$of];
        $offset = is_array($at) ? $at['offset'] ?? null : null;
        if (! is_int($offset) || ($at['length'] ?? null) !== $expected || $offset < 12 || $offset + $expected > $size) {
            throw UnreadableFile::at($name, $section, "it has not the $expected bytes that {$counts[$of]} $of take");
        }
        $most = ['faces' => $counts['points'], 'adjacency' => $counts['faces'], 'quads' => $counts['faces']][$section] ?? null;
        if ($most === null && $section !== 'positions') {
            return;
        }
        fseek($file, $offset);
        for ($left = $expected; $left > 0; $left -= strlen($portion)) {
            $portion = (string) fread($file, min($left, self::PORTION));
            $numbers = unpack(($section === 'positions' ? 'g' : 'V').'*', $portion) ?: [];
            if ($numbers === []) {
                throw UnreadableFile::at($name, $section, 'it ends too early');
            }
            if ($section === 'positions') {
                // A sum of finite numbers of single precision is finite, and of any other not.
                is_finite(array_sum($numbers)) || throw UnreadableFile::at($name, $section, 'it holds a coordinate that is no number');

                continue;
            }
            $numbers = $section === 'adjacency' ? array_filter($numbers, fn (int $face) => $face !== 0xFFFFFFFF) : $numbers;
            if ($numbers !== [] && max($numbers) >= $most) {
                throw UnreadableFile::at($name, $section, 'it names a point or a face that is not there');
            }
        }
    }
}
