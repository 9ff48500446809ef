<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\UnreadableFile;

/**
 * Plain text points: three columns or more, split by blanks, commas, semicolons or tabs. Further columns are recognised
 * from the first lines: three whole numbers 0 to 255 are a colour, three numbers of length 1 a normal; others are passed over.
 * PTS files are of this kind: blocks of points, each after a line with its count, an intensity before the colour.
 */
final class Xyz implements FileFormat
{
    /** Numbers such as 1,5 split by blanks or semicolons: there the comma is a point. */
    private const DECIMAL_COMMAS = '/^(?=[^,]*,\d)[+-]?\d+(,\d+)?([eE][+-]?\d+)?([\s;]+[+-]?\d+(,\d+)?([eE][+-]?\d+)?)+$/';

    public function name(): string
    {
        return 'xyz';
    }

    public function endings(): array
    {
        return ['xyz', 'txt', 'csv', 'asc', 'pts'];
    }

    public function read(string $path): array
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $rows = [];
        $positions = $normals = $colours = [];
        $layout = null;
        $blocks = strtolower(pathinfo($path, PATHINFO_EXTENSION)) === 'pts';
        $line = 0;
        $skipped = 0;
        while (($text = fgets($stream)) !== false || $rows !== []) {
            if ($text !== false) {
                $line++;
                // A byte order mark would hide the first point.
                $text = trim($line === 1 && str_starts_with($text, "\xEF\xBB\xBF") ? substr($text, 3) : $text);
                if ($text === '' || $text[0] === '#' || str_starts_with($text, '//')) {
                    continue;
                }
                $decimal = str_contains($text, ',') && preg_match(self::DECIMAL_COMMAS, $text) === 1;
                $row = preg_split($decimal ? '/[\s;]+/' : '/[\s,;]+/', $decimal ? str_replace(',', '.', $text) : $text) ?: [];
                if (count($row) < 3 || ! is_numeric($row[0]) || ! is_numeric($row[1]) || ! is_numeric($row[2])) {
                    if ($blocks && count($row) === 1 && ctype_digit($row[0])) {
                        continue;
                    }
                    // A heading, or a count on the first line, is not an error.
                    if ($positions === [] && $rows === [] && ++$skipped <= 5) {
                        continue;
                    }
                    throw UnreadableFile::at($path, "line $line", 'three numbers are expected');
                }
                $rows[] = $row;
                if ($layout === null && count($rows) < 64) {
                    continue;
                }
            }
            $layout ??= self::layout($rows, $blocks ? 4 : 3);
            foreach ($rows as $row) {
                for ($k = 0; $k < 3; $k++) {
                    if (! is_finite((float) $row[$k])) {
                        throw UnreadableFile::at($path, "line $line", 'a coordinate is not a finite number');
                    }
                    $positions[] = (float) $row[$k];
                }
                if ($layout['normal'] > 0) {
                    for ($k = 0; $k < 3; $k++) {
                        $normals[] = (float) ($row[$layout['normal'] + $k] ?? 0);
                    }
                }
                if ($layout['colour'] > 0) {
                    $k = $layout['colour'];
                    $colours[] = ((int) ($row[$k] ?? 0) & 255) << 16 | ((int) ($row[$k + 1] ?? 0) & 255) << 8 | ((int) ($row[$k + 2] ?? 0) & 255);
                }
            }
            $rows = [];
            if ($text === false) {
                break;
            }
        }
        fclose($stream);
        if ($positions === []) {
            throw UnreadableFile::at($path, '', 'no line holds three numbers; is it a text file of points?');
        }

        return [new Loaded('xyz', PointCloud::fromFlat($positions, $normals, $colours))];
    }

    /**
     * @param  list<array<int, string>>  $rows
     * @param  int  $first  column that may be something else than a place
     * @return array{normal: int, colour: int} first column of each, 0 when absent
     */
    private static function layout(array $rows, int $first): array
    {
        $layout = ['normal' => 0, 'colour' => 0];
        $columns = min(array_map(count(...), $rows));
        for ($k = $first; $k + 3 <= $columns; $k++) {
            $isColour = $isNormal = true;
            foreach ($rows as $row) {
                [$a, $b, $c] = [$row[$k], $row[$k + 1], $row[$k + 2]];
                $isColour = $isColour && ctype_digit($a.$b.$c) && max((int) $a, (int) $b, (int) $c) <= 255;
                $isNormal = $isNormal && is_numeric($a) && is_numeric($b) && is_numeric($c) && abs((float) $a ** 2 + (float) $b ** 2 + (float) $c ** 2 - 1.0) < 0.02;
            }
            if ($isNormal && $layout['normal'] === 0) {
                $layout['normal'] = $k;
                $k += 2;
            } elseif ($isColour && $layout['colour'] === 0) {
                $layout['colour'] = $k;
                $k += 2;
            }
        }

        return $layout;
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        $p = $geometry->positions;
        $normals = $geometry instanceof PointCloud ? $geometry->normals : [];
        $buffer = '';
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $buffer .= sprintf('%.9g %.9g %.9g', $p[$o], $p[$o + 1], $p[$o + 2]);
            $buffer .= $normals === [] ? "\n" : sprintf(" %.7f %.7f %.7f\n", $normals[$o], $normals[$o + 1], $normals[$o + 2]);
            if (strlen($buffer) > 65536) {
                fwrite($stream, $buffer);
                $buffer = '';
            }
        }
        fwrite($stream, $buffer);
    }
}
