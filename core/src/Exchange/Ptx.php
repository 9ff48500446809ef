<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * PTX: one or more scans, each a grid of points in the scanner's own coordinates, and the scanner's pose. Ten lines stand before each grid:
 * columns, rows, the scanner's place, its three axes, and a 4x4 matrix for row vectors. A place of 0 0 0 means that nothing came back.
 * A scan becomes a pass with its pose; the scanner stands in the origin of its points. The grid of rays is kept, and written again.
 */
final class Ptx implements FileFormat
{
    /** How far a pose may be from a turn and a shift: poses are printed with six digits or so. */
    private const RIGID = 1e-3;

    public function name(): string
    {
        return 'ptx';
    }

    public function endings(): array
    {
        return ['ptx'];
    }

    public function read(string $path): array
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $line = 0;
        $scans = [];
        try {
            while (($columns = $this->count($path, $stream, $line, $line === 0)) !== null) {
                $rows = $this->count($path, $stream, $line, true);
                if ($rows === null || 6 * $columns * $rows > (int) filesize($path)) {
                    throw UnreadableFile::at($path, "line $line", 'the grid is larger than the file can hold');
                }
                for ($k = 0; $k < 4; $k++) {
                    $this->numbers($path, $stream, $line, 3);
                }
                $pose = $this->pose($path, $stream, $line);
                $cloud = $this->points($path, $stream, $line, $columns, $rows);
                if ($cloud !== null) {
                    $scans[] = new Loaded('ptx', $cloud, null, 'scan '.(count($scans) + 1), $pose, [sprintf('grid of %d columns and %d rows', $columns, $rows)]);
                }
            }
        } finally {
            fclose($stream);
        }
        if ($scans === []) {
            throw UnreadableFile::at($path, '', 'no scan in it holds a point');
        }

        return count($scans) === 1 ? [$scans[0]->named('')] : $scans;
    }

    /**
     * @param  resource  $stream
     * @return int|null null where the file ends
     */
    private function count(string $path, $stream, int &$line, bool $needed): ?int
    {
        do {
            $text = fgets($stream);
            $line++;
        } while ($text !== false && trim($text) === '');
        if ($text === false && ! $needed) {
            return null;
        }
        $text = trim((string) $text, " \t\r\n\xEF\xBB\xBF");
        if (! ctype_digit($text) || strlen($text) > 7 || (int) $text === 0) {
            throw UnreadableFile::at($path, "line $line", 'a scan begins with its number of columns and, on the next line, of rows');
        }

        return (int) $text;
    }

    /**
     * @param  resource  $stream
     * @return list<float>
     */
    private function numbers(string $path, $stream, int &$line, int $many): array
    {
        $line++;
        $words = preg_split('/\s+/', trim((string) fgets($stream))) ?: [];
        if (count($words) !== $many) {
            throw UnreadableFile::at($path, "line $line", "$many numbers are expected");
        }
        $numbers = [];
        foreach ($words as $word) {
            if (! is_numeric($word) || ! is_finite((float) $word)) {
                throw UnreadableFile::at($path, "line $line", "\"$word\" is not a finite number");
            }
            $numbers[] = (float) $word;
        }

        return $numbers;
    }

    /** @param  resource  $stream */
    private function pose(string $path, $stream, int &$line): RigidTransform
    {
        $m = [];
        for ($k = 0; $k < 4; $k++) {
            $m[] = $this->numbers($path, $stream, $line, 4);
        }
        for ($a = 0; $a < 3; $a++) {
            for ($b = 0; $b < 3; $b++) {
                $dot = $m[$a][0] * $m[$b][0] + $m[$a][1] * $m[$b][1] + $m[$a][2] * $m[$b][2];
                if (abs($dot - ($a === $b ? 1.0 : 0.0)) > self::RIGID) {
                    throw UnreadableFile::at($path, "line $line", 'the pose is not a turn and a shift: it stretches or shears');
                }
            }
        }

        // Row vectors: the matrix stands on its side.
        return RigidTransform::of([$m[0][0], $m[1][0], $m[2][0], $m[0][1], $m[1][1], $m[2][1], $m[0][2], $m[1][2], $m[2][2]], [$m[3][0], $m[3][1], $m[3][2]]);
    }

    /** @param  resource  $stream */
    private function points(string $path, $stream, int &$line, int $gridColumns, int $gridRows): ?PointCloud
    {
        $positions = $colours = $cells = [];
        $coloured = null;
        for ($k = 0, $many = $gridColumns * $gridRows; $k < $many; $k++) {
            $line++;
            $text = fgets($stream);
            if ($text === false) {
                throw UnreadableFile::at($path, "line $line", 'the grid ends too early; copy the file again');
            }
            $words = preg_split('/\s+/', trim($text)) ?: [];
            $columns = count($words);
            if ($columns < 3 || ! is_numeric($words[0]) || ! is_numeric($words[1]) || ! is_numeric($words[2])) {
                throw UnreadableFile::at($path, "line $line", 'three numbers are expected, and after them an intensity and a colour');
            }
            [$x, $y, $z] = [(float) $words[0], (float) $words[1], (float) $words[2]];
            if (! is_finite($x) || ! is_finite($y) || ! is_finite($z)) {
                throw UnreadableFile::at($path, "line $line", 'a coordinate is not a finite number');
            }
            if ($x === 0.0 && $y === 0.0 && $z === 0.0) {
                continue;
            }
            $positions[] = $x;
            $positions[] = $y;
            $positions[] = $z;
            // Column by column.
            $cells[] = $k % $gridRows * $gridColumns + intdiv($k, $gridRows);
            $coloured ??= $columns >= 7;
            if ($coloured) {
                $colours[] = ((int) ($words[4] ?? 0) & 255) << 16 | ((int) ($words[5] ?? 0) & 255) << 8 | ((int) ($words[6] ?? 0) & 255);
            } elseif ($columns >= 4) {
                // An intensity of 0 to 1 is shown as grey.
                $colours[] = 0x10101 * (int) (255 * max(0.0, min(1.0, (float) $words[3])));
            }
        }

        return $positions === [] ? null : PointCloud::fromFlat($positions, [], 3 * count($colours) === count($positions) ? $colours : [], [0.0, 0.0, 0.0], [], Raster::of($gridColumns, $gridRows, $cells));
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        $raster = $geometry instanceof PointCloud ? $geometry->raster : null;
        if ($raster === null) {
            throw UnsuitableInput::because('PTX holds the grid of rays of a scanner, which this does not have; write E57 or PLY.');
        }
        assert($geometry instanceof PointCloud);
        [$x, $y, $z] = $sensor = $geometry->sensorOrigin ?? [0.0, 0.0, 0.0];
        fwrite($stream, "{$raster->columns}\n{$raster->rows}\n".vsprintf('%.9g %.9g %.9g', $sensor)."\n1 0 0\n0 1 0\n0 0 1\n1 0 0 0\n0 1 0 0\n0 0 1 0\n".vsprintf('%.9g %.9g %.9g', $sensor)." 1\n");
        $p = $geometry->positions;
        $colours = $geometry->colours;
        $nothing = '0 0 0 0'.($colours === [] ? '' : ' 0 0 0')."\n";
        $points = $raster->points();
        for ($column = 0; $column < $raster->columns; $column++) {
            $lines = '';
            for ($row = 0; $row < $raster->rows; $row++) {
                $i = $points[$row * $raster->columns + $column];
                $lines .= $i < 0 ? $nothing : sprintf('%.9g %.9g %.9g 1', $p[3 * $i] - $x, $p[3 * $i + 1] - $y, $p[3 * $i + 2] - $z)
                    .($colours === [] ? '' : sprintf(' %d %d %d', $colours[$i] >> 16, $colours[$i] >> 8 & 255, $colours[$i] & 255))."\n";
            }
            fwrite($stream, $lines);
        }
    }
}
