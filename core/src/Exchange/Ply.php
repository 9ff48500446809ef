<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Unit;
use Emberstone\Core\Operation\UnreadableFile;

/**
 * PLY (Turk 1994), ASCII and both binaries, any property types and order.
 *
 * Two comments of our own carry what the format has no place for: `comment sensor_origin X Y Z` (where the scanner stood)
 * and `comment unit mm`. Evidence travels as vertex property `support` and face property `origin`.
 */
final class Ply implements FileFormat
{
    /** name => [bytes, unpack code little-endian, unpack code big-endian] */
    private const TYPES = [
        'char' => [1, 'c', 'c'], 'uchar' => [1, 'C', 'C'], 'short' => [2, 'v', 'n'], 'ushort' => [2, 'v', 'n'],
        'int' => [4, 'V', 'N'], 'uint' => [4, 'V', 'N'], 'float' => [4, 'g', 'G'], 'double' => [8, 'e', 'E'],
    ];

    private const ALIASES = [
        'int8' => 'char', 'uint8' => 'uchar', 'int16' => 'short', 'uint16' => 'ushort',
        'int32' => 'int', 'uint32' => 'uint', 'float32' => 'float', 'float64' => 'double',
    ];

    public function name(): string
    {
        return 'ply';
    }

    public function endings(): array
    {
        return ['ply'];
    }

    public function read(string $path): array
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        try {
            $header = $this->readHeader($path, $stream);

            return [$this->readBody($path, $stream, $header)];
        } finally {
            fclose($stream);
        }
    }

    /**
     * @param  resource  $stream
     * @return array{encoding: string, elements: list<array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}>, sensor: array{float, float, float}|null, unit: Unit|null, lines: int}
     */
    private function readHeader(string $path, $stream): array
    {
        if (rtrim((string) fgets($stream, 16)) !== 'ply') {
            throw UnreadableFile::at($path, 'line 1', 'a PLY file begins with the word "ply"; this one does not');
        }
        $encoding = '';
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
                $list = ($words[1] ?? '') === 'list' ? self::type($words[2] ?? '') : null;
                $type = self::type($words[$list === null ? 1 : 3] ?? '');
                $name = $words[$list === null ? 2 : 4] ?? '';
                if ($elements === [] || $type === null || $name === '' || (($words[1] ?? '') === 'list' && $list === null)) {
                    throw UnreadableFile::at($path, "line $line", 'the property line is not understood: '.trim($text));
                }
                $elements[count($elements) - 1]['properties'][] = ['name' => $name, 'type' => $type, 'list' => $list];
            }
        }
        if (! in_array($encoding, ['ascii', 'binary_little_endian', 'binary_big_endian'], true)) {
            throw UnreadableFile::at($path, 'header', "the encoding \"$encoding\" is not one of ascii, binary_little_endian, binary_big_endian");
        }

        return ['encoding' => $encoding, 'elements' => $elements, 'sensor' => $sensor, 'unit' => $unit, 'lines' => $line];
    }

    private static function type(string $name): ?string
    {
        $name = self::ALIASES[$name] ?? $name;

        return isset(self::TYPES[$name]) ? $name : null;
    }

    /**
     * @param  resource  $stream
     * @param  array{encoding: string, elements: list<array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}>, sensor: array{float, float, float}|null, unit: Unit|null, lines: int}  $header
     */
    private function readBody(string $path, $stream, array $header): Loaded
    {
        $columns = [];
        $faces = [];
        $origin = [];
        $hasFaces = false;
        $line = $header['lines'];
        foreach ($header['elements'] as $element) {
            $this->checkSize($path, $stream, $element, $header['encoding']);
            $isFace = $element['name'] === 'face';
            $rows = $header['encoding'] === 'ascii'
                ? $this->asciiRows($path, $stream, $element, $line)
                : $this->binaryRows($path, $stream, $element, $header['encoding'] === 'binary_big_endian');
            $line += $element['count'];
            if ($element['name'] === 'vertex') {
                $columns = $this->collectVertices($path, $element, $rows);
            } elseif ($isFace) {
                $hasFaces = $element['count'] > 0;
                $this->collectFaces($path, $element, $rows, $columns, $faces, $origin);
            } else {
                foreach ($rows as $_) {
                    // Elements of other kinds are passed over.
                }
            }
        }
        if (($columns['positions'] ?? []) === []) {
            throw UnreadableFile::at($path, '', 'the file holds no points');
        }
        $geometry = $hasFaces
            ? TriangleMesh::fromFlat($columns['positions'], $faces, $columns['support'], array_sum($origin) === 0 ? [] : $origin)
            : PointCloud::fromFlat($columns['positions'], $columns['normals'], $columns['colours'], $header['sensor']);

        return new Loaded('ply', $geometry, $header['unit']);
    }

    /**
     * A count that the rest of the file cannot hold is refused before any memory is taken for it.
     *
     * @param  resource  $stream
     * @param  array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}  $element
     */
    private function checkSize(string $path, $stream, array $element, string $encoding): void
    {
        $least = 0;
        foreach ($element['properties'] as $property) {
            $least += $encoding === 'ascii' ? 2 : self::TYPES[$property['list'] ?? $property['type']][0];
        }
        $left = (fstat($stream)['size'] ?? 0) - (int) ftell($stream);
        if ($element['count'] > 0 && $least * $element['count'] > $left + 1) {
            throw UnreadableFile::at($path, "element {$element['name']}", "the header promises {$element['count']} entries, but the file ends before them; copy it again");
        }
    }

    /**
     * @param  resource  $stream
     * @param  array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}  $element
     * @return \Generator<int, list<int|float|list<int|float>>>
     */
    private function asciiRows(string $path, $stream, array $element, int $line): \Generator
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
                    $many = (int) ($words[$at++] ?? 0);
                }
                $values = [];
                for ($k = 0; $k < $many; $k++, $at++) {
                    if (! isset($words[$at]) || ! is_numeric($words[$at])) {
                        throw UnreadableFile::at($path, 'line '.($line + $i + 1), "a number is missing or not a number for \"{$property['name']}\"");
                    }
                    $values[] = $words[$at] + 0;
                }
                $row[] = $property['list'] !== null ? $values : $values[0];
            }
            yield $row;
        }
    }

    /**
     * @param  resource  $stream
     * @param  array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}  $element
     * @return \Generator<int, list<int|float|list<int|float>>>
     */
    private function binaryRows(string $path, $stream, array $element, bool $bigEndian): \Generator
    {
        $fixed = array_filter($element['properties'], fn (array $property) => $property['list'] !== null) === [];
        $code = $bigEndian ? 2 : 1;
        if ($fixed) {
            $stride = 0;
            $format = [];
            foreach ($element['properties'] as $k => $property) {
                [$bytes] = self::TYPES[$property['type']];
                $stride += $bytes;
                $format[] = self::TYPES[$property['type']][$code].'p'.$k;
            }
            $format = implode('/', $format);
            for ($i = 0; $i < $element['count']; $i += 4096) {
                $many = min(4096, $element['count'] - $i);
                $chunk = (string) stream_get_contents($stream, $many * $stride);
                if (strlen($chunk) < $many * $stride) {
                    throw UnreadableFile::at($path, 'entry '.($i + intdiv(strlen($chunk), max(1, $stride))), "the file ends in the middle of the {$element['name']} data; copy it again");
                }
                for ($o = 0, $end = $many * $stride; $o < $end; $o += $stride) {
                    yield array_values(unpack($format, $chunk, $o) ?: []);
                }
            }

            return;
        }
        for ($i = 0; $i < $element['count']; $i++) {
            $row = [];
            foreach ($element['properties'] as $property) {
                $many = $property['list'] === null ? 1 : (int) $this->numbers($path, $stream, $property['list'], 1, $code, $i, $element['name'])[0];
                $values = $many === 0 ? [] : $this->numbers($path, $stream, $property['type'], $many, $code, $i, $element['name']);
                $row[] = $property['list'] === null ? $values[0] : $values;
            }
            yield $row;
        }
    }

    /**
     * @param  resource  $stream
     * @return list<int|float>
     */
    private function numbers(string $path, $stream, string $type, int $many, int $code, int $entry, string $element): array
    {
        $bytes = self::TYPES[$type][0] * $many;
        $chunk = $bytes > 1 << 20 ? '' : (string) fread($stream, $bytes);
        if (strlen($chunk) < $bytes) {
            throw UnreadableFile::at($path, "$element $entry", 'the file ends in the middle of this entry, or its length is damaged; copy it again');
        }

        return array_values(unpack(self::TYPES[$type][$code].$many, $chunk) ?: []);
    }

    /**
     * @param  array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}  $element
     * @param  iterable<int, list<int|float|list<int|float>>>  $rows
     * @return array{positions: list<float>, normals: list<float>, colours: list<int>, support: list<int>}
     */
    private function collectVertices(string $path, array $element, iterable $rows): array
    {
        $names = array_column($element['properties'], 'name');
        $column = static fn (string ...$wanted): int => max([-1, ...array_map(fn (string $name) => (int) (array_search($name, $names, true) === false ? -1 : array_search($name, $names, true)), $wanted)]);
        [$x, $y, $z] = [$column('x'), $column('y'), $column('z')];
        if ($x < 0 || $y < 0 || $z < 0) {
            throw UnreadableFile::at($path, 'header', 'the vertex element has no x, y and z');
        }
        [$nx, $ny, $nz] = [$column('nx'), $column('ny'), $column('nz')];
        [$r, $g, $b] = [$column('red', 'r'), $column('green', 'g'), $column('blue', 'b')];
        $s = $column('support');
        $hasNormals = $nx >= 0 && $ny >= 0 && $nz >= 0;
        $hasColours = $r >= 0 && $g >= 0 && $b >= 0;
        $colourScale = $hasColours && in_array($element['properties'][$r]['type'], ['float', 'double'], true) ? 255.0 : 1.0;
        $positions = $normals = $colours = $support = [];
        $i = 0;
        foreach ($rows as $row) {
            $px = (float) $row[$x];
            $py = (float) $row[$y];
            $pz = (float) $row[$z];
            if (! is_finite($px + $py + $pz) || abs($px) + abs($py) + abs($pz) > 1e12) {
                throw UnreadableFile::at($path, "vertex $i", 'the coordinates are not finite numbers; export the pass again without invalid points');
            }
            $positions[] = $px;
            $positions[] = $py;
            $positions[] = $pz;
            if ($hasNormals) {
                $a = (float) $row[$nx];
                $c = (float) $row[$ny];
                $d = (float) $row[$nz];
                $length = sqrt($a * $a + $c * $c + $d * $d);
                $w = $length > 0.0 && is_finite($length) ? 1.0 / $length : 0.0;
                $normals[] = $w === 0.0 ? 0.0 : $a * $w;
                $normals[] = $w === 0.0 ? 0.0 : $c * $w;
                $normals[] = $w === 0.0 ? 0.0 : $d * $w;
            }
            if ($hasColours) {
                $colours[] = ((int) ($row[$r] * $colourScale) & 255) << 16 | ((int) ($row[$g] * $colourScale) & 255) << 8 | ((int) ($row[$b] * $colourScale) & 255);
            }
            if ($s >= 0) {
                $support[] = (int) $row[$s];
            }
            $i++;
        }

        return ['positions' => $positions, 'normals' => $normals, 'colours' => $colours, 'support' => $support];
    }

    /**
     * @param  array{name: string, count: int, properties: list<array{name: string, type: string, list: string|null}>}  $element
     * @param  iterable<int, list<int|float|list<int|float>>>  $rows
     * @param  array<string, mixed>  $columns
     * @param  array<int, int>  $faces  (changed)
     * @param  array<int, int>  $origin  (changed)
     */
    private function collectFaces(string $path, array $element, iterable $rows, array $columns, array &$faces, array &$origin): void
    {
        $at = $originAt = -1;
        foreach ($element['properties'] as $k => $property) {
            if (in_array($property['name'], ['vertex_indices', 'vertex_index'], true)) {
                $at = $k;
            } elseif ($property['name'] === 'origin') {
                $originAt = $k;
            }
        }
        if ($at < 0) {
            throw UnreadableFile::at($path, 'header', 'the face element has no vertex_indices list');
        }
        $positions = $columns['positions'] ?? [];
        $count = intdiv(count($positions), 3);
        $i = 0;
        foreach ($rows as $row) {
            $corners = $row[$at];
            foreach ($corners as $v) {
                if ($v < 0 || $v >= $count) {
                    throw UnreadableFile::at($path, "face $i", "it names vertex $v, but there are only $count");
                }
            }
            $before = count($faces);
            if (count($corners) === 3) {
                $faces[] = (int) $corners[0];
                $faces[] = (int) $corners[1];
                $faces[] = (int) $corners[2];
            } elseif (count($corners) > 3) {
                Polygon::triangulate(array_map(intval(...), $corners), $positions, $faces);
            }
            $mark = $originAt >= 0 ? (int) $row[$originAt] : 0;
            for ($k = count($faces) - $before; $k > 0; $k -= 3) {
                $origin[] = $mark;
            }
            $i++;
        }
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        $p = $geometry->positions;
        $n = intdiv(count($p), 3);
        $normals = $geometry instanceof PointCloud ? $geometry->normals : [];
        $colours = $geometry instanceof PointCloud ? $geometry->colours : [];
        $support = $geometry instanceof TriangleMesh ? $geometry->support : [];
        $origin = $geometry instanceof TriangleMesh ? $geometry->origin : [];
        $head = ['ply', 'format '.($options->ascii ? 'ascii' : 'binary_little_endian').' 1.0', 'comment unit '.$options->unit->value];
        if ($geometry instanceof PointCloud && $geometry->sensorOrigin !== null) {
            $head[] = vsprintf('comment sensor_origin %.9g %.9g %.9g', $geometry->sensorOrigin);
        }
        // Doubles in ASCII, floats in binary: what the readers of other programs expect.
        array_push($head, "element vertex $n", 'property float x', 'property float y', 'property float z');
        if ($normals !== []) {
            array_push($head, 'property float nx', 'property float ny', 'property float nz');
        }
        if ($colours !== []) {
            array_push($head, 'property uchar red', 'property uchar green', 'property uchar blue');
        }
        if ($support !== []) {
            $head[] = 'property uchar support';
        }
        if ($geometry instanceof TriangleMesh) {
            array_push($head, 'element face '.$geometry->faceCount(), 'property list uchar int vertex_indices');
            if ($origin !== []) {
                $head[] = 'property uchar origin';
            }
        }
        fwrite($stream, implode("\n", $head)."\nend_header\n");
        $number = $options->ascii ? '%.9g' : '';
        $buffer = '';
        $plain = $normals === [] && $colours === [] && $support === [];
        if ($plain && ! $options->ascii) {
            for ($o = 0, $e = count($p); $o < $e; $o += 8190) {
                fwrite($stream, pack('g*', ...array_slice($p, $o, 8190)));
            }
        } else {
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                if ($options->ascii) {
                    $row = [sprintf($number, $p[$o]), sprintf($number, $p[$o + 1]), sprintf($number, $p[$o + 2])];
                    if ($normals !== []) {
                        array_push($row, sprintf('%.7f', $normals[$o]), sprintf('%.7f', $normals[$o + 1]), sprintf('%.7f', $normals[$o + 2]));
                    }
                    if ($colours !== []) {
                        array_push($row, $colours[$i] >> 16, ($colours[$i] >> 8) & 255, $colours[$i] & 255);
                    }
                    if ($support !== []) {
                        $row[] = min(255, $support[$i]);
                    }
                    $buffer .= implode(' ', $row)."\n";
                } else {
                    $buffer .= $normals !== [] ? pack('g6', $p[$o], $p[$o + 1], $p[$o + 2], $normals[$o], $normals[$o + 1], $normals[$o + 2]) : pack('g3', $p[$o], $p[$o + 1], $p[$o + 2]);
                    if ($colours !== []) {
                        $buffer .= pack('C3', $colours[$i] >> 16, ($colours[$i] >> 8) & 255, $colours[$i] & 255);
                    }
                    if ($support !== []) {
                        $buffer .= chr(min(255, $support[$i]));
                    }
                }
                if (strlen($buffer) > 65536) {
                    fwrite($stream, $buffer);
                    $buffer = '';
                }
            }
        }
        if ($geometry instanceof TriangleMesh) {
            $f = $geometry->faces;
            for ($t = 0, $o = 0, $m = $geometry->faceCount(); $t < $m; $t++, $o += 3) {
                if ($options->ascii) {
                    $buffer .= "3 {$f[$o]} {$f[$o + 1]} {$f[$o + 2]}".($origin === [] ? '' : " {$origin[$t]}")."\n";
                } else {
                    $buffer .= $origin === [] ? pack('CV3', 3, $f[$o], $f[$o + 1], $f[$o + 2]) : pack('CV3C', 3, $f[$o], $f[$o + 1], $f[$o + 2], $origin[$t]);
                }
                if (strlen($buffer) > 65536) {
                    fwrite($stream, $buffer);
                    $buffer = '';
                }
            }
        }
        fwrite($stream, $buffer);
    }
}
