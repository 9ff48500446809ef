<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Plain text points: three columns or more, split by blanks, commas, semicolons or tabs. What the columns mean is guessed from the first lines
 * (TextColumns) unless it is said. PTS files are of this kind: blocks of points, each after a line with its count, an intensity before the colour.
 */
final class Xyz implements FileFormat, StreamsClouds
{
    /** Numbers such as 1,5 split by blanks or semicolons: there the comma is a point. */
    private const DECIMAL_COMMAS = '/^(?=[^,]*,\d)[+-]?\d+(,\d+)?([eE][+-]?\d+)?([\s;]+[+-]?\d+(,\d+)?([eE][+-]?\d+)?)+$/';

    /** Lines of heading before the first point, at most. */
    private const HEADING = 5;

    private const SAMPLE = 64;

    private const CHUNK = 8192;

    public function __construct(private readonly ?TextColumns $columns = null)
    {
    }

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
        $all = ['positions' => [], 'normals' => [], 'colours' => [], 'confidence' => []];
        foreach ($this->chunks($path) as $chunk) {
            foreach ($chunk as $what => $values) {
                array_push($all[$what], ...$values);
            }
        }

        /** @var array{positions: list<float>, normals: list<float>, colours: list<int>, confidence: list<float>} $all */
        return [new Loaded('xyz', PointCloud::fromFlat($all['positions'], $all['normals'], $all['colours'], null, $all['confidence']))];
    }

    public function intoBlob(string $path, string $blob): ReadThing
    {
        $writer = new CloudBlobWriter($blob, null);
        $points = 0;
        foreach ($this->chunks($path) as $chunk) {
            $writer->add(...$chunk);
            $points += intdiv(count($chunk['positions']), 3);
        }

        return new ReadThing($blob, 'cloud', '', $points, 0, null, RigidTransform::identity(), $writer->finish(), []);
    }

    /**
     * The first lines as they stand, split into columns, and what the columns are taken for.
     *
     * @param  bool|null  $isBlocks  whether it is a PTS file, where its path does not tell
     * @return array{lines: list<list<string>>, columns: list<string>, heading: int}
     *
     * @throws UnreadableFile
     */
    public function look(string $path, ?bool $isBlocks = null, int $many = 8): array
    {
        $isBlocks ??= self::isBlocks($path);
        $rows = [];
        $heading = 0;
        foreach ($this->rows($path, $heading, $isBlocks) as $row) {
            $rows[] = array_values($row);
            if (count($rows) >= self::SAMPLE) {
                break;
            }
        }
        if ($rows === []) {
            throw UnreadableFile::at($path, '', 'no line holds three numbers; is it a text file of points?');
        }
        $columns = $this->columns ?? TextColumns::guess($rows, $isBlocks ? 4 : 3);

        return ['lines' => array_slice($rows, 0, $many), 'columns' => $columns->roles, 'heading' => $heading];
    }

    private static function isBlocks(string $path): bool
    {
        return strtolower(pathinfo($path, PATHINFO_EXTENSION)) === 'pts';
    }

    /**
     * The lines that hold points, split, by the number of their line.
     *
     * @param  int  $heading  (changed) lines passed over before the first
     * @param  bool  $blocks  lines with a count alone begin a block
     * @return \Generator<int, array<int, string>>
     */
    private function rows(string $path, int &$heading, bool $blocks): \Generator
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $line = 0;
        $begun = false;
        try {
            while (($text = fgets($stream)) !== false) {
                $line++;
                // A byte order mark would hide the first point.
                $text = trim($line === 1 && str_starts_with($text, "\xEF\xBB\xBF") ? substr($text, 3) : $text);
                if ($text === '' || $text[0] === '#' || str_starts_with($text, '//')) {
                    continue;
                }
                $decimal = str_contains($text, ',') && preg_match(self::DECIMAL_COMMAS, $text) === 1;
                $row = preg_split($decimal ? '/[\s;]+/' : '/[\s,;]+/', $decimal ? str_replace(',', '.', $text) : $text) ?: [];
                if (count($row) >= 3 && is_numeric($row[0]) && is_numeric($row[1]) && is_numeric($row[2])) {
                    $begun = true;
                    yield $line => $row;
                } elseif (! ($blocks && count($row) === 1 && ctype_digit($row[0])) && ($begun || ++$heading > self::HEADING)) {
                    // A heading, or a count on the first line, is not an error.
                    throw UnreadableFile::at($path, "line $line", 'three numbers are expected');
                }
            }
        } finally {
            fclose($stream);
        }
    }

    /** @return \Generator<int, array{positions: list<float>, normals: list<float>, colours: list<int>, confidence: list<float>}> */
    private function chunks(string $path): \Generator
    {
        $sample = [];
        $columns = $this->columns;
        $chunk = $none = ['positions' => [], 'normals' => [], 'colours' => [], 'confidence' => []];
        $heading = 0;
        $any = false;
        $blocks = self::isBlocks($path);
        foreach ($this->rows($path, $heading, $blocks) as $line => $row) {
            $any = true;
            if ($columns === null) {
                $sample[$line] = $row;
                if (count($sample) < self::SAMPLE) {
                    continue;
                }
                $columns = TextColumns::guess(array_values($sample), $blocks ? 4 : 3);
            } else {
                $sample = [$line => $row];
            }
            foreach ($sample as $at => $one) {
                self::take($path, $at, $one, $columns, $chunk);
            }
            $sample = [];
            if (count($chunk['positions']) >= 3 * self::CHUNK) {
                yield $chunk;
                $chunk = $none;
            }
        }
        if (! $any) {
            throw UnreadableFile::at($path, '', 'no line holds three numbers; is it a text file of points?');
        }
        if ($sample !== []) {
            $columns ??= TextColumns::guess(array_values($sample), $blocks ? 4 : 3);
            foreach ($sample as $at => $one) {
                self::take($path, $at, $one, $columns, $chunk);
            }
        }
        yield $chunk;
    }

    /**
     * @param  array<int, string>  $row
     * @param  array{positions: list<float>, normals: list<float>, colours: list<int>, confidence: list<float>}  $chunk  (changed)
     */
    private static function take(string $path, int $line, array $row, TextColumns $columns, array &$chunk): void
    {
        foreach ($columns->three('x', 'y', 'z') ?? [] as $c) {
            if (! is_numeric($row[$c] ?? null)) {
                throw UnreadableFile::at($path, "line $line", 'there is no number in column '.($c + 1));
            }
            if (! is_finite((float) $row[$c])) {
                throw UnreadableFile::at($path, "line $line", 'a coordinate is not a finite number');
            }
            $chunk['positions'][] = (float) $row[$c];
        }
        foreach ($columns->three('nx', 'ny', 'nz') ?? [] as $c) {
            $chunk['normals'][] = (float) ($row[$c] ?? 0);
        }
        $rgb = $columns->three('red', 'green', 'blue');
        if ($rgb !== null) {
            $chunk['colours'][] = ((int) ($row[$rgb[0]] ?? 0) & 255) << 16 | ((int) ($row[$rgb[1]] ?? 0) & 255) << 8 | ((int) ($row[$rgb[2]] ?? 0) & 255);
        }
        $sure = $columns->at('confidence');
        if ($sure >= 0) {
            $chunk['confidence'][] = (float) ($row[$sure] ?? 0);
        }
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
