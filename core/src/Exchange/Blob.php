<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Closure;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Geometry at rest. The layout is documented in docs/blob.md; the browser maps its sections onto typed arrays without parsing.
 *
 * Bytes: "EMBR", u32 version, u32 length of the JSON head, the head padded with blanks to a multiple of eight, then the sections,
 * each starting at a multiple of eight. All numbers little-endian. Positions are f32 relative to the f64 origin in the head.
 */
final class Blob
{
    public const VERSION = 1;

    /** @param  array<string, mixed>  $more  what the head says besides */
    public static function encode(TriangleMesh|PointCloud $geometry, array $more = []): string
    {
        [$x, $y, $z] = BoundingBox::of($geometry->positions)->centre();
        $p = $geometry->positions;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $p[$o] -= $x;
            $p[$o + 1] -= $y;
            $p[$o + 2] -= $z;
        }
        $box = BoundingBox::of($geometry->positions);
        $head = ['origin' => [$x, $y, $z], 'points' => intdiv($n, 3), 'bounds' => ['min' => $box->min, 'max' => $box->max]];
        $sections = ['positions' => Packed::singles($p)];
        if ($geometry instanceof TriangleMesh) {
            $head += ['kind' => 'mesh', 'faces' => $geometry->faceCount()];
            $sections['faces'] = Packed::ints($geometry->faces);
            $sections['adjacency'] = Packed::ints(array_map(fn (int $h) => $h < 0 ? 0xFFFFFFFF : intdiv($h, 3), Topology::twins($geometry->faces)));
            if ($geometry->support !== []) {
                ['passes' => $passes, 'spread' => $spread, 'weight' => $weight] = Evidence::parts($geometry->support);
                $sections['support'] = Packed::bytes($passes);
                if (max($geometry->support) > 255) {
                    $sections['spread'] = Packed::shorts($spread);
                    $sections['weight'] = Packed::shorts($weight);
                }
            }
            if ($geometry->origin !== []) {
                $sections['faceOrigin'] = Packed::bytes($geometry->origin);
            }
            if ($geometry->quads !== []) {
                $head['quads'] = count($geometry->quads);
                $sections['quads'] = Packed::ints($geometry->quads);
            }
        } else {
            $head += ['kind' => 'cloud', 'sensor' => $geometry->sensorOrigin];
            if ($geometry->normals !== []) {
                $sections['normals'] = Packed::singles($geometry->normals);
            }
            if ($geometry->colours !== []) {
                $sections['colours'] = Packed::ints($geometry->colours);
            }
            if ($geometry->confidence !== []) {
                $sections['confidence'] = Packed::singles($geometry->confidence);
            }
            if ($geometry->raster !== null) {
                $head['raster'] = ['columns' => $geometry->raster->columns, 'rows' => $geometry->raster->rows];
                $sections['cells'] = Packed::ints($geometry->raster->cells);
            }
        }

        return self::assemble($head + $more, $sections);
    }

    /** @param  string  $mask a byte a point */
    public static function encodeMask(string $mask): string
    {
        return self::assemble(['kind' => 'mask', 'points' => strlen($mask)], ['mask' => $mask]);
    }

    /**
     * @param  array<string, mixed>  $head
     * @param  array<string, string>  $sections
     */
    private static function assemble(array $head, array $sections): string
    {
        $body = '';
        foreach ($sections as $bytes) {
            $body .= $bytes.str_repeat("\0", -strlen($bytes) & 7);
        }

        return self::start($head, array_map(strlen(...), $sections)).$body;
    }

    /**
     * All that stands before the sections.
     *
     * @param  array<string, mixed>  $head
     * @param  array<string, int>  $lengths  of the sections, in order
     */
    public static function start(array $head, array $lengths): string
    {
        $table = [];
        $at = 0;
        foreach ($lengths as $name => $length) {
            $table[$name] = ['offset' => $at, 'length' => $length];
            $at += $length + (-$length & 7);
        }
        $json = json_encode(['sections' => $table] + $head, JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION);
        $json .= str_repeat(' ', -(12 + strlen($json)) & 7);

        return 'EMBR'.pack('VV', self::VERSION, strlen($json)).$json;
    }

    /**
     * The head, with the absolute offset of each section.
     *
     * @return array<string, mixed>
     *
     * @throws UnreadableFile when it was written by another version
     * @throws \JsonException when it is damaged
     */
    public static function head(string $blob): array
    {
        if (substr($blob, 0, 4) !== 'EMBR' || (unpack('V', $blob, 4) ?: [1 => 0])[1] !== self::VERSION) {
            throw UnreadableFile::at('blob', 'head', 'the stored geometry is not of a version this release reads');
        }
        $length = (unpack('V', $blob, 8) ?: [1 => 0])[1];
        $head = json_decode(substr($blob, 12, $length), true, 16, JSON_THROW_ON_ERROR);
        assert(is_array($head));
        foreach ($head['sections'] as $name => $section) {
            $head['sections'][$name]['offset'] = $section['offset'] + 12 + $length;
        }

        return $head;
    }

    /** @param  array<string, mixed>  $head as head() gave it */
    public static function section(string $blob, array $head, string $name): string
    {
        $section = $head['sections'][$name] ?? null;

        return $section === null ? '' : substr($blob, $section['offset'], $section['length']);
    }

    /**
     * A cloud of which only the head is read until its points are asked for.
     *
     * @param  Closure(): string  $path  of the blob; asked for every time, as a copy may be removed between two times
     */
    public static function source(Closure $path): CloudSource
    {
        $start = (string) @file_get_contents($path(), length: 12);
        $head = self::head((string) @file_get_contents($path(), length: 12 + max(0, (int) (unpack('V', str_pad($start, 12, "\0"), 8) ?: [1 => 0])[1])));
        $read = function () use ($path): PointCloud {
            $cloud = self::decode((string) file_get_contents($path()));
            assert($cloud instanceof PointCloud);

            return $cloud;
        };

        return CloudSource::readFrom($read, $head['points'], $head['sensor'] !== null, ($head['sections']['confidence']['length'] ?? 0) > 0);
    }

    /** The geometry of a blob, mm from the origin of its coordinates. */
    public static function decode(string $blob): TriangleMesh|PointCloud
    {
        $head = self::head($blob);
        $p = Packed::toSingles(self::section($blob, $head, 'positions'));
        [$x, $y, $z] = $head['origin'];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $p[$o] += $x;
            $p[$o + 1] += $y;
            $p[$o + 2] += $z;
        }
        if ($head['kind'] === 'mesh') {
            $support = Evidence::joined(Packed::toBytes(self::section($blob, $head, 'support')), Packed::toShorts(self::section($blob, $head, 'spread')), Packed::toShorts(self::section($blob, $head, 'weight')));

            return TriangleMesh::fromFlat($p, Packed::toInts(self::section($blob, $head, 'faces')), $support, Packed::toBytes(self::section($blob, $head, 'faceOrigin')), Packed::toInts(self::section($blob, $head, 'quads')));
        }

        $raster = isset($head['raster']) ? Raster::of($head['raster']['columns'], $head['raster']['rows'], Packed::toInts(self::section($blob, $head, 'cells'))) : null;

        return PointCloud::fromFlat($p, Packed::toSingles(self::section($blob, $head, 'normals')), Packed::toInts(self::section($blob, $head, 'colours')), $head['sensor'], Packed::toSingles(self::section($blob, $head, 'confidence')), $raster);
    }

    public static function decodeMask(string $blob): string
    {
        return self::section($blob, self::head($blob), 'mask');
    }
}
