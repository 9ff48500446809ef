<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;

/** OFF (Object File Format), ASCII. */
final class Off implements FileFormat
{
    public function name(): string
    {
        return 'off';
    }

    public function endings(): array
    {
        return ['off'];
    }

    public function read(string $path): array
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $line = 0;
        $next = static function () use ($stream, &$line, $path): array {
            while (($text = fgets($stream)) !== false) {
                $line++;
                $text = trim(explode('#', $text)[0]);
                if ($text !== '') {
                    return preg_split('/\s+/', $text) ?: [];
                }
            }
            throw UnreadableFile::at($path, "line $line", 'the file ends too early; copy it again');
        };
        $words = $next();
        if (! in_array($words[0], ['OFF', 'COFF', 'NOFF'], true)) {
            throw UnreadableFile::at($path, 'line 1', 'an OFF file begins with the word "OFF"; this one does not');
        }
        $counts = count($words) > 3 ? array_slice($words, 1) : $next();
        if (! ctype_digit($counts[0]) || ! ctype_digit($counts[1] ?? '') || (int) $counts[0] * 6 > (int) filesize($path) + 6) {
            throw UnreadableFile::at($path, "line $line", 'the counts of vertices and faces are missing or larger than the file');
        }
        $positions = $faces = $quads = [];
        for ($i = 0; $i < (int) $counts[0]; $i++) {
            $words = $next();
            for ($k = 0; $k < 3; $k++) {
                if (! is_numeric($words[$k] ?? null) || ! is_finite((float) $words[$k])) {
                    throw UnreadableFile::at($path, "line $line", 'a vertex line needs three numbers');
                }
                $positions[] = (float) $words[$k];
            }
        }
        for ($i = 0; $i < (int) $counts[1]; $i++) {
            $words = $next();
            $corners = array_map(intval(...), array_slice($words, 1, (int) $words[0]));
            if (count($corners) < 3 || count($corners) !== (int) $words[0] || min($corners) < 0 || max($corners) >= (int) $counts[0]) {
                throw UnreadableFile::at($path, "line $line", 'the face names vertices that are not there');
            }
            Polygon::triangulate($corners, $positions, $faces, $quads);
        }
        fclose($stream);
        if ($positions === []) {
            throw UnreadableFile::at($path, '', 'the file holds no points');
        }

        return [new Loaded('off', $faces === [] ? PointCloud::fromFlat($positions) : TriangleMesh::fromFlat($positions, $faces, quads: $quads))];
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        $p = $geometry->positions;
        $mesh = $geometry instanceof TriangleMesh ? $geometry : TriangleMesh::empty();
        fwrite($stream, "OFF\n".intdiv(count($p), 3).' '.$mesh->cellCount()." 0\n");
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            fwrite($stream, sprintf("%.9g %.9g %.9g\n", $p[$o], $p[$o + 1], $p[$o + 2]));
        }
        foreach ($mesh->cells() as $corners) {
            fwrite($stream, count($corners).' '.implode(' ', $corners)."\n");
        }
    }
}
