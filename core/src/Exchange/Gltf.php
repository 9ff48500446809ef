<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * glTF 2.0, as text with its data beside or in it, and as one binary file (GLB). Lengths in metres.
 *
 * Source    Khronos Group 2021, "glTF 2.0 Specification" (ISO/IEC 12113).
 * Departs   coordinates stay as they are in the file, whichever way is up; corners in the same place are welded, since the format
 *           parts them where the look changes; materials, textures, skins, animations and lines are passed over.
 */
final class Gltf implements FileFormat
{
    private const DEPTH = 64;

    /** Nodes drawn, each time a node is used. */
    private const NODES = 20000;

    private const FACES = 50_000_000;

    /** What a file may require of its reader without holding other shapes than its accessors say. */
    private const HARMLESS = '/^KHR_(materials|texture|lights|mesh_quantization|animation)/';

    public function name(): string
    {
        return 'glb';
    }

    public function endings(): array
    {
        return ['glb', 'gltf'];
    }

    public function read(string $path): array
    {
        $data = GltfData::open($path);
        foreach ($data->json['extensionsRequired'] ?? [] as $extension) {
            if (! is_string($extension) || preg_match(self::HARMLESS, $extension) !== 1) {
                throw UnreadableFile::at($path, 'extensionsRequired', 'it needs "'.(is_string($extension) ? $extension : '').'", which Emberstone does not read; write the file without compression');
            }
        }
        $scenes = $data->list('scenes');
        $scene = $scenes[$data->json['scene'] ?? 0] ?? null;
        $roots = is_array($scene) ? ($scene['nodes'] ?? []) : array_keys($data->list('nodes'));
        $things = [];
        $drawn = $faces = 0;
        $stack = [];
        foreach (array_reverse(is_array($roots) ? $roots : []) as $root) {
            $stack[] = [$root, [1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0], 0];
        }
        while ($stack !== []) {
            [$k, $above, $depth] = array_pop($stack);
            $node = is_int($k) ? ($data->list('nodes')[$k] ?? null) : null;
            if (! is_array($node) || $depth > self::DEPTH || ++$drawn > self::NODES) {
                throw UnreadableFile::at($path, 'nodes', $node === null ? 'a node is named that is not there' : 'nodes stand in each other too deep or in a circle');
            }
            $matrix = self::times($above, $this->matrix($path, $node));
            foreach (array_reverse(is_array($node['children'] ?? null) ? $node['children'] : []) as $child) {
                $stack[] = [$child, $matrix, $depth + 1];
            }
            if (isset($node['mesh'])) {
                $mesh = is_int($node['mesh']) ? ($data->list('meshes')[$node['mesh']] ?? null) : null;
                if (! is_array($mesh) || ! is_array($mesh['primitives'] ?? null)) {
                    throw UnreadableFile::at($path, 'meshes', 'a mesh is named that is not there');
                }
                $name = trim((string) (is_string($node['name'] ?? null) ? $node['name'] : (is_string($mesh['name'] ?? null) ? $mesh['name'] : ''))) ?: 'part '.(count($things) + 1);
                foreach ($this->shapes($path, $data, $mesh['primitives'], $matrix) as $shape) {
                    $faces += $shape instanceof TriangleMesh ? $shape->faceCount() : 0;
                    if ($faces > self::FACES) {
                        throw UnreadableFile::at($path, 'nodes', 'the scene has more than '.self::FACES.' faces');
                    }
                    $things[] = new Loaded('glb', $shape, Unit::Metre, $name);
                }
            }
        }
        if ($things === []) {
            throw UnreadableFile::at($path, '', 'the scene holds neither faces nor points');
        }

        return count($things) === 1 ? [$things[0]->named('')] : $things;
    }

    /**
     * The faces of all primitives as one mesh, the points of all as one cloud.
     *
     * @param  array<mixed>  $primitives
     * @param  list<float>  $matrix
     * @return list<TriangleMesh|PointCloud>
     */
    private function shapes(string $path, GltfData $data, array $primitives, array $matrix): array
    {
        $meshes = $clouds = [];
        foreach ($primitives as $primitive) {
            $places = is_array($primitive) ? ($primitive['attributes']['POSITION'] ?? null) : null;
            if (! is_array($primitive) || ! is_int($places)) {
                throw UnreadableFile::at($path, 'meshes', 'a primitive has no places');
            }
            $positions = $data->numbers($places, 3);
            self::move($positions, $matrix);
            $n = intdiv(count($positions), 3);
            $indices = isset($primitive['indices']) && is_int($primitive['indices'])
                ? array_map(intval(...), $data->numbers($primitive['indices'], 1))
                : ($n > 0 ? range(0, $n - 1) : []);
            foreach ($indices as $v) {
                if ($v < 0 || $v >= $n) {
                    throw UnreadableFile::at($path, 'meshes', "a face names vertex $v, but there are $n");
                }
            }
            $mode = $primitive['mode'] ?? 4;
            if ($mode === 0 && $n > 0) {
                $clouds[] = PointCloud::fromFlat($positions, [], $this->colours($data, $primitive['attributes']['COLOR_0'] ?? null, $n));
            } elseif ($mode === 4 || $mode === 5 || $mode === 6) {
                $faces = self::triangles($indices, $mode);
                if ($faces !== []) {
                    $meshes[] = TriangleMesh::fromFlat($positions, self::mirrors($matrix) ? self::turned($faces) : $faces);
                }
            }
        }
        $shapes = $meshes === [] ? [] : [Weld::mesh(TriangleMesh::joined($meshes), 0.0)];
        if ($shapes !== [] && $shapes[0]->faces === []) {
            $shapes = [];
        }

        return $clouds === [] ? $shapes : [...$shapes, PointCloud::joined($clouds)];
    }

    /** @return list<int> */
    private function colours(GltfData $data, mixed $accessor, int $n): array
    {
        if (! is_int($accessor)) {
            return [];
        }
        $width = $data->width($accessor);
        $values = $data->numbers($accessor, $width);
        $colours = [];
        for ($o = 0, $m = count($values); $o + $width <= $m; $o += $width) {
            $colour = 0;
            for ($c = 0; $c < 3; $c++) {
                $colour = $colour << 8 | (int) max(0.0, min(255.0, 255.0 * $values[$o + $c] + 0.5));
            }
            $colours[] = $colour;
        }

        return count($colours) === $n ? $colours : [];
    }

    /**
     * @param  array<int, int>  $indices
     * @param  int  $mode  4 triangles, 5 a strip, 6 a fan
     * @return list<int>
     */
    private static function triangles(array $indices, int $mode): array
    {
        $n = count($indices);
        if ($mode === 4) {
            return array_slice($indices, 0, $n - $n % 3);
        }
        $faces = [];
        for ($k = 0; $k + 2 < $n; $k++) {
            if ($mode === 6) {
                array_push($faces, $indices[$k + 1], $indices[$k + 2], $indices[0]);
            } else {
                array_push($faces, $indices[$k], $indices[$k + 1 + $k % 2], $indices[$k + 2 - $k % 2]);
            }
        }

        return $faces;
    }

    /**
     * @param  list<int>  $faces
     * @return list<int>
     */
    private static function turned(array $faces): array
    {
        for ($o = 0, $n = count($faces); $o + 2 < $n; $o += 3) {
            [$faces[$o + 1], $faces[$o + 2]] = [$faces[$o + 2], $faces[$o + 1]];
        }

        return array_values($faces);
    }

    /**
     * @param  array<mixed>  $node
     * @return list<float> sixteen numbers, column-major as in the format
     */
    private function matrix(string $path, array $node): array
    {
        $list = function (string $key, int $many, array $default) use ($path, $node): array {
            $value = $node[$key] ?? $default;
            if (! is_array($value) || count($value) !== $many || array_filter($value, fn ($v) => ! (is_int($v) || is_float($v)) || ! is_finite((float) $v)) !== []) {
                throw UnreadableFile::at($path, 'nodes', "the $key of a node is not $many finite numbers");
            }

            return array_map(floatval(...), array_values($value));
        };
        if (isset($node['matrix'])) {
            return $list('matrix', 16, []);
        }
        [$x, $y, $z, $w] = $list('rotation', 4, [0, 0, 0, 1]);
        [$sx, $sy, $sz] = $list('scale', 3, [1, 1, 1]);
        [$tx, $ty, $tz] = $list('translation', 3, [0, 0, 0]);

        return [
            (1 - 2 * ($y * $y + $z * $z)) * $sx, 2 * ($x * $y + $w * $z) * $sx, 2 * ($x * $z - $w * $y) * $sx, 0.0,
            2 * ($x * $y - $w * $z) * $sy, (1 - 2 * ($x * $x + $z * $z)) * $sy, 2 * ($y * $z + $w * $x) * $sy, 0.0,
            2 * ($x * $z + $w * $y) * $sz, 2 * ($y * $z - $w * $x) * $sz, (1 - 2 * ($x * $x + $y * $y)) * $sz, 0.0,
            $tx, $ty, $tz, 1.0,
        ];
    }

    /**
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @return list<float>
     */
    private static function times(array $a, array $b): array
    {
        $m = [];
        for ($column = 0; $column < 16; $column += 4) {
            for ($row = 0; $row < 4; $row++) {
                $m[] = $a[$row] * $b[$column] + $a[4 + $row] * $b[$column + 1] + $a[8 + $row] * $b[$column + 2] + $a[12 + $row] * $b[$column + 3];
            }
        }

        return $m;
    }

    /** @param  list<float>  $m */
    private static function mirrors(array $m): bool
    {
        return $m[0] * ($m[5] * $m[10] - $m[9] * $m[6]) - $m[4] * ($m[1] * $m[10] - $m[9] * $m[2]) + $m[8] * ($m[1] * $m[6] - $m[5] * $m[2]) < 0.0;
    }

    /**
     * @param  array<int, float>  $p  (changed)
     * @param  list<float>  $m
     */
    private static function move(array &$p, array $m): void
    {
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
            $p[$o] = $m[0] * $x + $m[4] * $y + $m[8] * $z + $m[12];
            $p[$o + 1] = $m[1] * $x + $m[5] * $y + $m[9] * $z + $m[13];
            $p[$o + 2] = $m[2] * $x + $m[6] * $y + $m[10] * $z + $m[14];
        }
    }

    /** One node with one mesh or one cloud: as GLB, or as text with the data in it. */
    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        GltfData::write($stream, $geometry, $options->unit->inMillimetres() / 1000.0, $options->ascii, $options->look ?? Look::none());
    }
}
