<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;
use SimpleXMLElement;

/**
 * Decodes the points of one scan: packets that each hold a piece of every field's stream.
 *
 * Source    ASTM E2807-11, section 9 (CompressedVector): singles, doubles, integers and scaled integers of any number of bits.
 * Cost      a pass over the packets; holds the wanted fields and one packet.
 *
 * @internal
 *
 * @phpstan-type Field array{kind: string, bits: int, least: int, most: int, scale: float, offset: float}
 */
final class E57Points
{
    private const HEADER = 32;

    /** @var list<string> names in the order of the streams */
    private array $names = [];

    /** @var array<string, Field> */
    private array $fields = [];

    public function __construct(private readonly string $path, private readonly E57File $file, SimpleXMLElement $prototype, private readonly string $place)
    {
        foreach ($prototype->children() as $element) {
            $this->names[] = $element->getName();
            $this->fields[$element->getName()] = $this->field($element);
        }
    }

    /** @return list<string> */
    public function names(): array
    {
        return $this->names;
    }

    /** @return array{float, float}|null least and most value that a field of integers can hold */
    public function range(string $name): ?array
    {
        $field = $this->fields[$name];

        return $field['kind'] === 'bits' ? [$field['least'] * $field['scale'] + $field['offset'], $field['most'] * $field['scale'] + $field['offset']] : null;
    }

    /** @return Field */
    private function field(SimpleXMLElement $element): array
    {
        $type = (string) $element['type'];
        $least = $this->whole($element['minimum'], PHP_INT_MIN);
        $most = $this->whole($element['maximum'], PHP_INT_MAX);
        // As doubles first: the range of 64 bits overflows an integer.
        $bits = (float) $most - (float) $least >= 2.0 ** 63 ? 64 : ($most <= $least ? 0 : strlen(decbin($most - $least)));
        $scaled = $type === 'ScaledInteger';

        return [
            'kind' => match (true) {
                $type === 'Float' && (string) $element['precision'] === 'single' => 'single',
                $type === 'Float' => 'double',
                $type === 'Integer', $scaled => 'bits',
                default => 'other',
            },
            'bits' => $bits, 'least' => $least, 'most' => $most,
            'scale' => $scaled ? (float) ($element['scale'] ?? 1.0) : 1.0, 'offset' => $scaled ? (float) ($element['offset'] ?? 0.0) : 0.0,
        ];
    }

    private function whole(?SimpleXMLElement $text, int $default): int
    {
        return $text === null || ! is_numeric((string) $text) ? $default : (int) (string) $text;
    }

    /**
     * @param  list<string>  $wanted
     * @return array<string, list<float>> as many values as $count for each wanted field
     *
     * @throws UnreadableFile when packets do not fit into each other or into the file
     */
    public function read(int $offset, int $count, array $wanted): array
    {
        $streams = array_flip($this->names);
        /** @var array<string, array<int, mixed>> $values */
        $values = array_fill_keys($wanted, []);
        $rest = array_fill_keys($wanted, '');
        $header = $this->file->read($offset, self::HEADER);
        /** @var array{length: int, data: int} $section */
        $section = unpack('Plength/Pdata', $header, 8);
        if ($header[0] !== "\1" || $section['length'] < self::HEADER) {
            throw UnreadableFile::at($this->path, $this->place, 'there are no points where the XML says');
        }
        $at = $section['data'];
        $left = $section['length'] - self::HEADER;
        while ($left >= 4 && $this->lacking($values, $count)) {
            $head = $this->file->read($at, 4);
            $length = (unpack('v', $head, 2) ?: [1 => 0])[1] + 1;
            if ($length % 4 !== 0 || $length > $left) {
                throw UnreadableFile::at($this->path, "$this->place, byte $at", 'a packet is longer than the points are');
            }
            if ($head[0] === "\1") {
                $packet = $this->file->read($at, $length);
                $many = (unpack('v', $packet, 4) ?: [1 => 0])[1];
                $starts = $this->starts($packet, $many, $length, $at);
                foreach ($wanted as $name) {
                    [$from, $size] = $starts[$streams[$name]] ?? [0, 0];
                    $rest[$name] = $this->decode($this->fields[$name], $rest[$name].substr($packet, $from, $size), $count, $values[$name]);
                }
            } elseif ($head[0] !== "\0" && $head[0] !== "\2") {
                throw UnreadableFile::at($this->path, "$this->place, byte $at", 'a packet is of a kind that E57 does not know');
            }
            $at = $this->file->after($at, $length);
            $left -= $length;
        }
        foreach ($wanted as $name) {
            if ($this->fields[$name]['bits'] === 0 && $this->fields[$name]['kind'] === 'bits') {
                $values[$name] = array_fill(0, $count, $this->fields[$name]['least'] * $this->fields[$name]['scale'] + $this->fields[$name]['offset']);
            }
            if (count($values[$name]) < $count) {
                throw UnreadableFile::at($this->path, $this->place, "$count points are promised, but $name ends after ".count($values[$name]));
            }
        }

        /** @var array<string, array<int, float>> $values */
        return array_map(array_values(...), $values);
    }

    /** @param  array<string, array<int, mixed>>  $values */
    private function lacking(array $values, int $count): bool
    {
        foreach ($values as $name => $list) {
            if (count($list) < $count && ($this->fields[$name]['kind'] !== 'bits' || $this->fields[$name]['bits'] > 0)) {
                return true;
            }
        }

        return false;
    }

    /** @return list<array{int, int}> start and length of each stream in the packet */
    private function starts(string $packet, int $many, int $length, int $at): array
    {
        $start = 6 + 2 * $many;
        if ($many !== count($this->names) || $start > $length) {
            throw UnreadableFile::at($this->path, "$this->place, byte $at", 'a packet does not have the fields that the XML names');
        }
        $starts = [];
        foreach (unpack("v$many", $packet, 6) ?: [] as $size) {
            $starts[] = [$start, $size];
            $start += $size;
        }
        if ($start > $length) {
            throw UnreadableFile::at($this->path, "$this->place, byte $at", 'the fields of a packet are longer than it');
        }

        return $starts;
    }

    /**
     * @param  Field  $field
     * @param  array<int, mixed>  $values  (changed) decoded ones are appended, up to $count
     * @return string the bytes that do not make a whole value yet; for odd numbers of bits from a whole value on
     */
    private function decode(array $field, string $bytes, int $count, array &$values): string
    {
        $bits = match ($field['kind']) {
            'single' => 32, 'double' => 64, 'bits' => $field['bits'],
            default => throw UnreadableFile::at($this->path, $this->place, 'a coordinate or colour is of a kind that holds no numbers'),
        };
        if ($bits === 0 || $bytes === '') {
            return '';
        }
        $missing = $count - count($values);
        // Eight values end on a whole byte, whatever their bits.
        $whole = $bits % 8 === 0 ? intdiv(8 * strlen($bytes), $bits) : intdiv(strlen($bytes), $bits) * 8;
        $last = intdiv(8 * strlen($bytes), $bits);
        $many = $last >= $missing ? $missing : $whole;
        $used = intdiv($many * $bits + 7, 8);
        $piece = substr($bytes, 0, $used);
        if ($field['kind'] !== 'bits') {
            foreach (unpack($field['kind'] === 'single' ? 'g*' : 'e*', $piece) ?: [] as $value) {
                $values[] = $value;
            }
        } else {
            [$scale, $offset, $least] = [$field['scale'], $field['offset'], $field['least']];
            foreach ($this->integers($piece, $bits, $many) as $value) {
                $values[] = ($value + $least) * $scale + $offset;
            }
        }

        return substr($bytes, $used);
    }

    /**
     * Unsigned integers packed from the lowest bit up.
     *
     * @return array<int, int>
     */
    private function integers(string $bytes, int $bits, int $many): array
    {
        $whole = [8 => 'C*', 16 => 'v*', 32 => 'V*', 64 => 'P*'][$bits] ?? null;
        if ($whole !== null) {
            return unpack($whole, $bytes) ?: [];
        }
        $values = [];
        if ($bits > 55) {
            for ($k = 0; $k < $many; $k++) {
                $value = 0;
                for ($b = 0, $at = $k * $bits; $b < $bits; $b++, $at++) {
                    $value |= (ord($bytes[$at >> 3]) >> ($at & 7) & 1) << $b;
                }
                $values[] = $value;
            }

            return $values;
        }
        $mask = (1 << $bits) - 1;
        $held = $have = 0;
        foreach (unpack('C*', $bytes) ?: [] as $byte) {
            $held |= $byte << $have;
            $have += 8;
            while ($have >= $bits && $many > 0) {
                $values[] = $held & $mask;
                $held >>= $bits;
                $have -= $bits;
                $many--;
            }
        }

        return $values;
    }
}
