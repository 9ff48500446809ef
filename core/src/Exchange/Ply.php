<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * PLY (Turk 1994), ASCII and both binaries, any property types and order.
 *
 * Two comments of our own carry what the format has no place for: `comment sensor_origin X Y Z` (where the scanner stood)
 * and `comment unit mm`. Evidence travels as vertex properties `support` (passes), `spread` (how far their points lie off, in the file's unit) and `weight`, and as face property `origin`; a scanner's confidence as `confidence` (or `quality`).
 *
 * @phpstan-import-type Chunk from PlyVertices
 * @phpstan-import-type Element from PlyHeader
 */
final class Ply implements FileFormat, StreamsClouds
{
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
            return [$this->readBody($path, $stream, PlyHeader::read($path, $stream))];
        } finally {
            fclose($stream);
        }
    }

    public function intoBlob(string $path, string $blob): ?ReadThing
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        try {
            $header = PlyHeader::read($path, $stream);
            $element = $header->elements[0] ?? null;
            // A mesh needs all of its vertices at once; so does what stands behind elements of other kinds.
            if ($element === null || $element['name'] !== 'vertex' || $element['count'] === 0 || array_sum(array_column(array_slice($header->elements, 1), 'count')) > 0) {
                return null;
            }
            PlyData::checkSize($path, $stream, $header, $element);
            $writer = new CloudBlobWriter($blob, $header->sensor);
            foreach ((new PlyVertices($path, $element))->chunks($stream, $header, $header->lines) as $chunk) {
                $writer->add($chunk['positions'], $chunk['normals'], $chunk['colours'], $chunk['confidence']);
            }
            $size = $writer->finish();

            return new ReadThing($blob, 'cloud', '', $element['count'], 0, $header->unit, RigidTransform::identity(), $size, []);
        } finally {
            fclose($stream);
        }
    }

    /** @param  resource  $stream */
    private function readBody(string $path, $stream, PlyHeader $header): Loaded
    {
        $vertices = ['positions' => [], 'normals' => [], 'colours' => [], 'support' => [], 'spread' => [], 'weight' => [], 'confidence' => []];
        $faces = [];
        $origin = [];
        $quads = [];
        $line = $header->lines;
        foreach ($header->elements as $element) {
            PlyData::checkSize($path, $stream, $header, $element);
            if ($element['name'] === 'vertex') {
                foreach ((new PlyVertices($path, $element))->chunks($stream, $header, $line) as $chunk) {
                    foreach ($chunk as $what => $values) {
                        array_push($vertices[$what], ...$values);
                    }
                }
            } elseif ($element['name'] === 'face') {
                $this->collectFaces($path, $stream, $header, $element, $line, $vertices['positions'], $faces, $origin, $quads);
            } else {
                foreach (PlyData::rows($path, $stream, $header, $element, $line) as $_) {
                    // Elements of other kinds are passed over.
                }
            }
            $line += $element['count'];
        }
        if ($vertices['positions'] === []) {
            throw UnreadableFile::at($path, '', 'the file holds no points');
        }
        /** @var Chunk $vertices */
        $support = $vertices['support'];
        foreach ($vertices['spread'] === [] ? [] : $support as $v => $passes) {
            $support[$v] = Evidence::of($passes, max(0.0, $vertices['spread'][$v]), max(0.0, $vertices['weight'][$v] ?? 0.0));
        }
        $geometry = $faces !== []
            ? TriangleMesh::fromFlat($vertices['positions'], $faces, $support, array_sum($origin) === 0 ? [] : $origin, $quads)
            : PointCloud::fromFlat($vertices['positions'], $vertices['normals'], $vertices['colours'], $header->sensor, $vertices['confidence']);

        return new Loaded('ply', $geometry, $header->unit);
    }

    /**
     * @param  resource  $stream
     * @param  Element  $element
     * @param  list<float>  $positions
     * @param  array<int, int>  $faces  (changed)
     * @param  array<int, int>  $origin  (changed)
     * @param  array<int, int>  $quads  (changed)
     */
    private function collectFaces(string $path, $stream, PlyHeader $header, array $element, int $line, array $positions, array &$faces, array &$origin, array &$quads): void
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
        $count = intdiv(count($positions), 3);
        $triangles = PlyData::triangles($stream, $header, $element);
        if ($triangles !== null) {
            ['corners' => $faces, 'origin' => $origin] = $triangles;
            foreach ($faces as $k => $v) {
                if ($v >= $count) {
                    throw UnreadableFile::at($path, 'face '.intdiv($k, 3), "it names vertex $v, but there are only $count");
                }
            }

            return;
        }
        foreach (PlyData::rows($path, $stream, $header, $element, $line) as $i => $row) {
            /** @var list<int|float> $corners a list by what the header says */
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
                Polygon::triangulate(array_map(intval(...), $corners), $positions, $faces, $quads);
            }
            $mark = $originAt >= 0 ? (int) $row[$originAt] : 0;
            for ($k = count($faces) - $before; $k > 0; $k -= 3) {
                $origin[] = $mark;
            }
        }
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        $p = $geometry->positions;
        $normals = $geometry instanceof PointCloud ? $geometry->normals : [];
        $colours = $geometry instanceof PointCloud ? $geometry->colours : [];
        $confidence = $geometry instanceof PointCloud ? $geometry->confidence : [];
        $support = $geometry instanceof TriangleMesh ? $geometry->support : [];
        $origin = $geometry instanceof TriangleMesh ? $geometry->origin : [];
        $isTold = $support !== [] && max($support) > 255;
        fwrite($stream, implode("\n", self::head($geometry, $options, $isTold))."\nend_header\n");
        $buffer = '';
        if ($normals === [] && $colours === [] && $support === [] && $confidence === [] && ! $options->ascii) {
            for ($o = 0, $e = count($p); $o < $e; $o += 8190) {
                fwrite($stream, pack('g*', ...array_slice($p, $o, 8190)));
            }
        } else {
            for ($i = 0, $n = intdiv(count($p), 3); $i < $n; $i++) {
                $buffer .= $options->ascii ? self::words($i, $p, $normals, $colours, $support, $confidence, $isTold) : self::bytes($i, $p, $normals, $colours, $support, $confidence, $isTold);
                if (strlen($buffer) > 65536) {
                    fwrite($stream, $buffer);
                    $buffer = '';
                }
            }
        }
        if ($geometry instanceof TriangleMesh) {
            foreach ($geometry->cells() as $t => $corners) {
                if ($options->ascii) {
                    $buffer .= count($corners).' '.implode(' ', $corners).($origin === [] ? '' : " {$origin[$t]}")."\n";
                } else {
                    $buffer .= pack('CV*', count($corners), ...$corners).($origin === [] ? '' : chr($origin[$t]));
                }
                if (strlen($buffer) > 65536) {
                    fwrite($stream, $buffer);
                    $buffer = '';
                }
            }
        }
        fwrite($stream, $buffer);
    }

    /**
     * @param  bool  $isTold  the support also tells spread and weight
     * @return list<string> lines
     */
    private static function head(TriangleMesh|PointCloud $geometry, WriteOptions $options, bool $isTold): array
    {
        $head = ['ply', 'format '.($options->ascii ? 'ascii' : 'binary_little_endian').' 1.0', 'comment unit '.$options->unit->value];
        if ($geometry instanceof PointCloud && $geometry->sensorOrigin !== null) {
            $head[] = vsprintf('comment sensor_origin %.9g %.9g %.9g', $geometry->sensorOrigin);
        }
        // Doubles in ASCII, floats in binary: what the readers of other programs expect.
        array_push($head, 'element vertex '.intdiv(count($geometry->positions), 3), 'property float x', 'property float y', 'property float z');
        if ($geometry instanceof PointCloud) {
            array_push($head, ...$geometry->normals === [] ? [] : ['property float nx', 'property float ny', 'property float nz']);
            array_push($head, ...$geometry->colours === [] ? [] : ['property uchar red', 'property uchar green', 'property uchar blue']);
            array_push($head, ...$geometry->confidence === [] ? [] : ['property float confidence']);

            return $head;
        }
        if ($geometry->support !== []) {
            array_push($head, 'property uchar support', ...$isTold ? ['property float spread', 'property float weight'] : []);
        }
        array_push($head, 'element face '.$geometry->cellCount(), 'property list uchar int vertex_indices', ...$geometry->origin === [] ? [] : ['property uchar origin']);

        return $head;
    }

    /**
     * A vertex as a line of numbers.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $normals
     * @param  array<int, int>  $colours
     * @param  array<int, int>  $support
     * @param  array<int, float>  $confidence
     */
    private static function words(int $i, array $p, array $normals, array $colours, array $support, array $confidence, bool $isTold): string
    {
        $o = 3 * $i;
        $row = [sprintf('%.9g', $p[$o]), sprintf('%.9g', $p[$o + 1]), sprintf('%.9g', $p[$o + 2])];
        if ($normals !== []) {
            array_push($row, sprintf('%.7f', $normals[$o]), sprintf('%.7f', $normals[$o + 1]), sprintf('%.7f', $normals[$o + 2]));
        }
        if ($colours !== []) {
            array_push($row, $colours[$i] >> 16, ($colours[$i] >> 8) & 255, $colours[$i] & 255);
        }
        if ($support !== []) {
            array_push($row, Evidence::passes($support[$i]), ...$isTold ? [sprintf('%.9g', Evidence::spreadMm($support[$i])), sprintf('%.9g', Evidence::weight($support[$i]))] : []);
        }
        if ($confidence !== []) {
            $row[] = sprintf('%.9g', $confidence[$i]);
        }

        return implode(' ', $row)."\n";
    }

    /**
     * A vertex in little-endian binary.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $normals
     * @param  array<int, int>  $colours
     * @param  array<int, int>  $support
     * @param  array<int, float>  $confidence
     */
    private static function bytes(int $i, array $p, array $normals, array $colours, array $support, array $confidence, bool $isTold): string
    {
        $o = 3 * $i;
        $bytes = $normals !== [] ? pack('g6', $p[$o], $p[$o + 1], $p[$o + 2], $normals[$o], $normals[$o + 1], $normals[$o + 2]) : pack('g3', $p[$o], $p[$o + 1], $p[$o + 2]);
        if ($colours !== []) {
            $bytes .= pack('C3', $colours[$i] >> 16, ($colours[$i] >> 8) & 255, $colours[$i] & 255);
        }
        if ($support !== []) {
            $bytes .= $isTold ? pack('Cg2', Evidence::passes($support[$i]), Evidence::spreadMm($support[$i]), Evidence::weight($support[$i])) : chr(Evidence::passes($support[$i]));
        }
        if ($confidence !== []) {
            $bytes .= pack('g', $confidence[$i]);
        }

        return $bytes;
    }
}
