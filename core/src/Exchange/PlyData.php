<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;

/**
 * The numbers of a PLY element: row by row for any element, or in runs of columns, which are decoded some ten times as fast.
 *
 * @internal
 *
 * @phpstan-import-type Element from PlyHeader
 *
 * A run holds the columns `first` to `first + width - 1`; the value of column c in row r is values[1 + r * width + c - first].
 *
 * @phpstan-type Run array{first: int, width: int, values: array<int, int|float>}
 */
final class PlyData
{
    private const CHUNK = 8192;

    /**
     * A count that the rest of the file cannot hold is refused before any memory is taken for it.
     *
     * @param  resource  $stream
     * @param  Element  $element
     *
     * @throws UnreadableFile then
     */
    public static function checkSize(string $path, $stream, PlyHeader $header, array $element): void
    {
        $least = 0;
        foreach ($element['properties'] as $property) {
            $least += $header->isAscii() ? 2 : PlyHeader::TYPES[$property['list'] ?? $property['type']][0];
        }
        $left = (fstat($stream)['size'] ?? 0) - (int) ftell($stream);
        if ($element['count'] > 0 && $least * $element['count'] > $left + 1) {
            throw UnreadableFile::at($path, "element {$element['name']}", "the header promises {$element['count']} entries, but the file ends before them; copy it again");
        }
    }

    /**
     * Chunks of rows, each as runs of columns of one type. Runs without a wanted column are left out; so are columns that hold lists.
     *
     * @param  resource  $stream
     * @param  Element  $element
     * @param  list<int>  $wanted  columns
     * @param  int  $line  (changed) of the text before the first row
     * @return \Generator<int, array{rows: int, runs: list<Run>}>
     */
    public static function chunks(string $path, $stream, PlyHeader $header, array $element, array $wanted, int $line): \Generator
    {
        if (! $header->isAscii() && PlyHeader::isFixed($element)) {
            yield from self::binaryChunks($path, $stream, $header, $element, $wanted);

            return;
        }
        $width = count($element['properties']);
        // Index 0 stays empty, as unpack leaves it.
        $values = [0];
        $rows = 0;
        foreach (self::rows($path, $stream, $header, $element, $line) as $row) {
            foreach ($row as $value) {
                $values[] = is_array($value) ? 0 : $value;
            }
            if (++$rows === self::CHUNK) {
                yield ['rows' => $rows, 'runs' => [['first' => 0, 'width' => $width, 'values' => $values]]];
                $values = [0];
                $rows = 0;
            }
        }
        if ($rows > 0) {
            yield ['rows' => $rows, 'runs' => [['first' => 0, 'width' => $width, 'values' => $values]]];
        }
    }

    /**
     * @param  resource  $stream
     * @param  Element  $element
     * @param  list<int>  $wanted
     * @return \Generator<int, array{rows: int, runs: list<Run>}>
     */
    private static function binaryChunks(string $path, $stream, PlyHeader $header, array $element, array $wanted): \Generator
    {
        $stride = PlyHeader::stride($element);
        /** @var list<array{first: int, width: int, type: string, at: int, bytes: int}> $plan */
        $plan = [];
        $at = 0;
        foreach ($element['properties'] as $c => $property) {
            $bytes = PlyHeader::TYPES[$property['type']][0];
            $last = count($plan) - 1;
            if ($last >= 0 && $plan[$last]['type'] === $property['type']) {
                $plan[$last]['width']++;
                $plan[$last]['bytes'] += $bytes;
            } else {
                $plan[] = ['first' => $c, 'width' => 1, 'type' => $property['type'], 'at' => $at, 'bytes' => $bytes];
            }
            $at += $bytes;
        }
        $plan = array_filter($plan, fn (array $run) => array_filter($wanted, fn (int $c) => $c >= $run['first'] && $c < $run['first'] + $run['width']) !== []);
        for ($i = 0; $i < $element['count']; $i += self::CHUNK) {
            $many = min(self::CHUNK, $element['count'] - $i);
            $chunk = (string) stream_get_contents($stream, $many * $stride);
            if (strlen($chunk) < $many * $stride) {
                throw UnreadableFile::at($path, 'entry '.($i + intdiv(strlen($chunk), max(1, $stride))), "the file ends in the middle of the {$element['name']} data; copy it again");
            }
            $runs = [];
            foreach ($plan as $run) {
                $bytes = $run['bytes'] === $stride ? $chunk : self::column($chunk, $stride, $run['at'], $run['bytes']);
                $runs[] = ['first' => $run['first'], 'width' => $run['width'], 'values' => unpack(PlyHeader::TYPES[$run['type']][$header->code()].'*', $bytes) ?: []];
            }
            yield ['rows' => $many, 'runs' => $runs];
        }
    }

    private static function column(string $chunk, int $stride, int $at, int $bytes): string
    {
        $column = '';
        for ($o = $at, $end = strlen($chunk); $o < $end; $o += $stride) {
            $column .= substr($chunk, $o, $bytes);
        }

        return $column;
    }

    /**
     * @param  resource  $stream
     * @param  Element  $element
     * @return \Generator<int, list<int|float|list<int|float>>>
     */
    public static function rows(string $path, $stream, PlyHeader $header, array $element, int $line): \Generator
    {
        return $header->isAscii() ? self::asciiRows($path, $stream, $element, $line) : self::binaryRows($path, $stream, $header, $element);
    }

    /**
     * @param  resource  $stream
     * @param  Element  $element
     * @return \Generator<int, list<int|float|list<int|float>>>
     */
    private static function asciiRows(string $path, $stream, array $element, int $line): \Generator
    {
        for ($i = 0; $i < $element['count']; $i++) {
            $text = fgets($stream);
            if ($text === false) {
                throw UnreadableFile::at($path, 'line '.($line + $i + 1), "the file ends after $i of {$element['count']} {$element['name']} lines");
            }
            $words = preg_split('/\s+/', trim($text)) ?: [];
            $row = [];
            $at = 0;
            foreach ($element['properties'] as $property) {
                $many = 1;
                if ($property['list'] !== null) {
                    $many = self::length($path, 'line '.($line + $i + 1), $words[$at++] ?? 0, $property['name']);
                }
                $values = [];
                for ($k = 0; $k < $many; $k++, $at++) {
                    $number = TextNumber::parse($words[$at] ?? null) ?? throw UnreadableFile::at($path, 'line '.($line + $i + 1), "a number is missing or not a number for \"{$property['name']}\"");
                    $values[] = $number === floor($number) && abs($number) < 1e15 ? (int) $number : $number;
                }
                $row[] = $property['list'] !== null ? $values : $values[0];
            }
            yield $row;
        }
    }

    /**
     * @param  resource  $stream
     * @param  Element  $element
     * @return \Generator<int, list<int|float|list<int|float>>>
     */
    private static function binaryRows(string $path, $stream, PlyHeader $header, array $element): \Generator
    {
        for ($i = 0; $i < $element['count']; $i++) {
            $row = [];
            foreach ($element['properties'] as $property) {
                $many = $property['list'] === null ? 1 : self::length($path, "{$element['name']} $i", self::numbers($path, $stream, $property['list'], 1, $header->code(), $i, $element['name'])[0], $property['name']);
                $values = $many === 0 ? [] : self::numbers($path, $stream, $property['type'], $many, $header->code(), $i, $element['name']);
                $row[] = $property['list'] === null ? $values[0] : $values;
            }
            yield $row;
        }
    }

    /** How many entries a list says it has. */
    private static function length(string $path, string $place, int|float|string $said, string $name): int
    {
        if (! is_numeric($said) || (float) $said < 0.0 || (float) $said !== floor((float) $said)) {
            throw UnreadableFile::at($path, $place, "the list \"$name\" says it has $said entries; a list has none or more");
        }

        return (int) $said;
    }

    /**
     * @param  resource  $stream
     * @return list<int|float>
     */
    private static function numbers(string $path, $stream, string $type, int $many, int $code, int $entry, string $element): array
    {
        $bytes = PlyHeader::TYPES[$type][0] * $many;
        $chunk = $bytes > 1 << 20 ? '' : (string) fread($stream, max(1, $bytes));
        if (strlen($chunk) < $bytes) {
            throw UnreadableFile::at($path, "$element $entry", 'the file ends in the middle of this entry, or its length is damaged; copy it again');
        }

        return array_values(unpack(PlyHeader::TYPES[$type][$code].$many, $chunk) ?: []);
    }

    /**
     * Corners of binary faces as most files have them: a count of one byte, always 3, and three numbers of four bytes; behind them at most our own
     * byte of `origin`. Null, with the stream where it was, when a face is no triangle.
     *
     * @param  resource  $stream
     * @param  Element  $element
     * @return array{corners: list<int>, origin: list<int>}|null
     */
    public static function triangles($stream, PlyHeader $header, array $element): ?array
    {
        $properties = $element['properties'];
        $hasOrigin = count($properties) === 2 && $properties[1]['name'] === 'origin' && $properties[1]['type'] === 'uchar' && $properties[1]['list'] === null;
        if ($header->isAscii() || count($properties) !== ($hasOrigin ? 2 : 1) || ! in_array($properties[0]['list'], ['uchar', 'char'], true) || ! in_array($properties[0]['type'], ['int', 'uint'], true)) {
            return null;
        }
        $stride = $hasOrigin ? 14 : 13;
        $start = (int) ftell($stream);
        $corners = $origin = [];
        for ($i = 0; $i < $element['count']; $i += self::CHUNK) {
            $many = min(self::CHUNK, $element['count'] - $i);
            $chunk = (string) stream_get_contents($stream, $stride * $many);
            if (strlen($chunk) < $stride * $many || self::column($chunk, $stride, 0, 1) !== str_repeat("\3", $many)) {
                fseek($stream, $start);

                return null;
            }
            foreach (unpack(PlyHeader::TYPES['int'][$header->code()].'*', self::column($chunk, $stride, 1, 12)) ?: [] as $v) {
                $corners[] = $v;
            }
            foreach ($hasOrigin ? unpack('C*', self::column($chunk, $stride, 13, 1)) ?: [] : [] as $v) {
                $origin[] = $v;
            }
        }

        return ['corners' => $corners, 'origin' => $origin];
    }
}
