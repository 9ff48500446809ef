<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;

/**
 * What a PLY file says of itself before its data.
 *
 * @internal
 *
 * @phpstan-type Property array{name: string, type: string, list: string|null}
 * @phpstan-type Element array{name: string, count: int, properties: list<Property>}
 */
final readonly class PlyHeader
{
    /** name => [bytes, unpack code little-endian, unpack code big-endian] */
    public const TYPES = [
        'char' => [1, 'c', 'c'], 'uchar' => [1, 'C', 'C'], 'short' => [2, 'v', 'n'], 'ushort' => [2, 'v', 'n'],
        'int' => [4, 'V', 'N'], 'uint' => [4, 'V', 'N'], 'float' => [4, 'g', 'G'], 'double' => [8, 'e', 'E'],
    ];

    private const ALIASES = [
        'int8' => 'char', 'uint8' => 'uchar', 'int16' => 'short', 'uint16' => 'ushort',
        'int32' => 'int', 'uint32' => 'uint', 'float32' => 'float', 'float64' => 'double',
    ];

    /**
     * @param  list<Element>  $elements
     * @param  array{float, float, float}|null  $sensor
     * @param  int  $lines  of the header
     */
    private function __construct(
        public string $encoding,
        public array $elements,
        public ?array $sensor,
        public ?Unit $unit,
        public int $lines,
    ) {
    }

    public function isAscii(): bool
    {
        return $this->encoding === 'ascii';
    }

    /** Index of the unpack code in TYPES. */
    public function code(): int
    {
        return $this->encoding === 'binary_big_endian' ? 2 : 1;
    }

    /**
     * @param  resource  $stream  left behind the header
     *
     * @throws UnreadableFile
     */
    public static function read(string $path, $stream): self
    {
        if (rtrim((string) fgets($stream, 16)) !== 'ply') {
            throw UnreadableFile::at($path, 'line 1', 'a PLY file begins with the word "ply"; this one does not');
        }
        $encoding = '';
        /** @var list<Element> $elements */
        $elements = [];
        $sensor = null;
        $unit = null;
        for ($line = 2; ; $line++) {
            $text = fgets($stream, 4096);
            if ($text === false || $line > 1000) {
                throw UnreadableFile::at($path, "line $line", 'the header has no end_header line');
            }
            $words = preg_split('/\s+/', trim($text)) ?: [''];
            if ($words[0] === 'end_header') {
                break;
            }
            if ($words[0] === 'format') {
                $encoding = $words[1] ?? '';
            } elseif ($words[0] === 'comment' && ($words[1] ?? '') === 'sensor_origin' && count($words) === 5) {
                $sensor = [(float) $words[2], (float) $words[3], (float) $words[4]];
            } elseif ($words[0] === 'comment' && ($words[1] ?? '') === 'unit') {
                $unit = Unit::tryFrom($words[2] ?? '');
            } elseif ($words[0] === 'element') {
                if (count($words) !== 3 || ! ctype_digit($words[2]) || strlen($words[2]) > 12) {
                    throw UnreadableFile::at($path, "line $line", 'an element line needs a name and a count');
                }
                $elements[] = ['name' => $words[1], 'count' => (int) $words[2], 'properties' => []];
            } elseif ($words[0] === 'property') {
                if ($elements === []) {
                    throw UnreadableFile::at($path, "line $line", 'a property stands before any element');
                }
                $last = array_pop($elements);
                $last['properties'][] = self::property($words) ?? throw UnreadableFile::at($path, "line $line", 'the property line is not understood: '.trim($text));
                $elements[] = $last;
            }
        }
        if (! in_array($encoding, ['ascii', 'binary_little_endian', 'binary_big_endian'], true)) {
            throw UnreadableFile::at($path, 'header', "the encoding \"$encoding\" is not one of ascii, binary_little_endian, binary_big_endian");
        }

        return new self($encoding, $elements, $sensor, $unit, $line);
    }

    /**
     * @param  list<string>  $words
     * @return Property|null
     */
    private static function property(array $words): ?array
    {
        $isList = ($words[1] ?? '') === 'list';
        $list = $isList ? self::type($words[2] ?? '') : null;
        $type = self::type($words[$isList ? 3 : 1] ?? '');
        $name = $words[$isList ? 4 : 2] ?? '';

        return $type === null || $name === '' || ($isList && $list === null) ? null : ['name' => $name, 'type' => $type, 'list' => $list];
    }

    private static function type(string $name): ?string
    {
        $name = self::ALIASES[$name] ?? $name;

        return isset(self::TYPES[$name]) ? $name : null;
    }

    /** @param  Element  $element */
    public static function isFixed(array $element): bool
    {
        return array_filter($element['properties'], fn (array $property) => $property['list'] !== null) === [];
    }

    /** @param  Element  $element */
    public static function stride(array $element): int
    {
        return array_sum(array_map(fn (array $property) => self::TYPES[$property['type']][0], $element['properties']));
    }
}
