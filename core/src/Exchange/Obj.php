<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;

/** Wavefront OBJ: v, vn, f with any of v, v/vt, v//vn, v/vt/vn and negative indices, lines continued after a backslash; polygons of more than four corners are cut into triangles. */
final class Obj implements FileFormat
{
    public function name(): string
    {
        return 'obj';
    }

    public function endings(): array
    {
        return ['obj'];
    }

    public function read(string $path): array
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $positions = $colours = $normals = $faces = $quads = [];
        $line = 0;
        while (($text = fgets($stream)) !== false) {
            $line++;
            while (str_ends_with($trimmed = rtrim($text), '\\') && ($more = fgets($stream)) !== false) {
                $text = substr($trimmed, 0, -1).' '.$more;
                $line++;
            }
            $head = substr($text, 0, 2);
            if ($head === 'v ' || $head === "v\t") {
                $words = preg_split('/\s+/', trim($text)) ?: [];
                for ($k = 1; $k < 4; $k++) {
                    $positions[] = TextNumber::parse($words[$k] ?? null) ?? throw UnreadableFile::at($path, "line $line", 'a "v" line needs three numbers');
                }
                if (count($words) >= 7) {
                    $colours[] = ((int) (255 * (float) $words[4]) & 255) << 16 | ((int) (255 * (float) $words[5]) & 255) << 8 | ((int) (255 * (float) $words[6]) & 255);
                }
            } elseif ($head === 'vn') {
                foreach (array_slice(preg_split('/\s+/', trim($text)) ?: [], 1, 3) as $word) {
                    $normals[] = TextNumber::parse($word) ?? throw UnreadableFile::at($path, "line $line", 'a "vn" line needs three numbers');
                }
            } elseif ($head === 'f ' || $head === "f\t") {
                $count = intdiv(count($positions), 3);
                $corners = [];
                foreach (array_slice(preg_split('/\s+/', trim($text)) ?: [], 1) as $word) {
                    $index = explode('/', $word)[0];
                    if (preg_match('/^[+-]?\d+$/', $index) !== 1) {
                        throw UnreadableFile::at($path, "line $line", "the face names vertex \"$word\"; a vertex is named by a whole number");
                    }
                    $index = (int) $index;
                    $index = $index < 0 ? $count + $index : $index - 1;
                    if ($index < 0 || $index >= $count) {
                        throw UnreadableFile::at($path, "line $line", "the face names vertex \"$word\", but there are $count before it");
                    }
                    $corners[] = $index;
                }
                if (count($corners) < 3) {
                    throw UnreadableFile::at($path, "line $line", 'a face needs three vertices or more');
                }
                Polygon::triangulate($corners, $positions, $faces, $quads);
            }
        }
        fclose($stream);
        if ($positions === []) {
            throw UnreadableFile::at($path, '', 'the file holds no "v" lines; is it an OBJ file?');
        }

        return [new Loaded('obj', $faces !== []
            ? TriangleMesh::fromFlat($positions, $faces, quads: $quads)
            : PointCloud::fromFlat($positions, count($normals) === count($positions) ? $normals : [], 3 * count($colours) === count($positions) ? $colours : []))];
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        fwrite($stream, "# Emberstone, lengths in mm\n");
        $p = $geometry->positions;
        $buffer = '';
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $buffer .= sprintf("v %.9g %.9g %.9g\n", $p[$o], $p[$o + 1], $p[$o + 2]);
            if (strlen($buffer) > 65536) {
                fwrite($stream, $buffer);
                $buffer = '';
            }
        }
        if ($geometry instanceof TriangleMesh) {
            foreach ($geometry->cells() as $corners) {
                $buffer .= 'f';
                foreach ($corners as $v) {
                    $buffer .= ' '.($v + 1);
                }
                $buffer .= "\n";
                if (strlen($buffer) > 65536) {
                    fwrite($stream, $buffer);
                    $buffer = '';
                }
            }
        }
        fwrite($stream, $buffer);
    }
}
