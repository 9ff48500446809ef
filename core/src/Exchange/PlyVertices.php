<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;

/**
 * What the vertex element of a PLY file holds of what Emberstone knows: places, normals, colours, support, confidence; in chunks.
 *
 * @internal
 *
 * @phpstan-import-type Element from PlyHeader
 * @phpstan-import-type Run from PlyData
 *
 * @phpstan-type Chunk array{positions: list<float>, normals: list<float>, colours: list<int>, support: list<int>, spread: list<float>, weight: list<float>, confidence: list<float>}
 */
final class PlyVertices
{
    /** @var array<string, list<int>> what => its columns */
    private array $columns = [];

    /** @param  Element  $element */
    public function __construct(private readonly string $path, private readonly array $element)
    {
        $names = array_column($element['properties'], 'name');
        $find = fn (string $names_) => self::first($names, explode('|', $names_));
        foreach (['positions' => ['x', 'y', 'z'], 'normals' => ['nx', 'ny', 'nz'], 'colours' => ['red|r', 'green|g', 'blue|b'], 'support' => ['support'], 'spread' => ['spread'], 'weight' => ['weight'], 'confidence' => ['confidence|quality']] as $what => $wanted) {
            $found = array_map($find, $wanted);
            if (! in_array(-1, $found, true)) {
                $this->columns[$what] = $found;
            }
        }
        if (! isset($this->columns['positions'])) {
            throw UnreadableFile::at($path, 'header', 'the vertex element has no x, y and z');
        }
    }

    /**
     * @param  list<string>  $names
     * @param  list<string>  $wanted
     */
    private static function first(array $names, array $wanted): int
    {
        foreach ($wanted as $name) {
            $at = array_search($name, $names, true);
            if ($at !== false) {
                return $at;
            }
        }

        return -1;
    }

    /**
     * @param  resource  $stream
     * @return \Generator<int, Chunk>
     */
    public function chunks($stream, PlyHeader $header, int $line): \Generator
    {
        $first = 0;
        $floatColour = isset($this->columns['colours']) && in_array($this->element['properties'][$this->columns['colours'][0]]['type'], ['float', 'double'], true);
        foreach (PlyData::chunks($this->path, $stream, $header, $this->element, array_merge(...array_values($this->columns)), $line) as ['rows' => $rows, 'runs' => $runs]) {
            yield [
                'positions' => $this->positions($runs, $rows, $first),
                'normals' => $this->normals($runs, $rows),
                'colours' => $this->colours($runs, $rows, $floatColour ? 255.0 : 1.0),
                'support' => $this->single('support', $runs, $rows, intval(...)),
                'spread' => $this->single('spread', $runs, $rows, floatval(...)),
                'weight' => $this->single('weight', $runs, $rows, floatval(...)),
                'confidence' => $this->single('confidence', $runs, $rows, floatval(...)),
            ];
            $first += $rows;
        }
    }

    /**
     * The run of a column, and where its first value stands in it.
     *
     * @param  list<Run>  $runs
     * @return array{array<int, int|float>, int, int} values, first, width
     */
    private static function of(array $runs, int $column): array
    {
        foreach ($runs as $run) {
            if ($column >= $run['first'] && $column < $run['first'] + $run['width']) {
                return [$run['values'], 1 + $column - $run['first'], $run['width']];
            }
        }
        throw new \LogicException("Column $column was not asked for.");
    }

    /**
     * @param  list<Run>  $runs
     * @return list<float>
     */
    private function positions(array $runs, int $rows, int $first): array
    {
        [$cx, $cy, $cz] = $this->columns['positions'];
        [$vx, $ox, $wx] = self::of($runs, $cx);
        [$vy, $oy, $wy] = self::of($runs, $cy);
        [$vz, $oz, $wz] = self::of($runs, $cz);
        $out = [];
        for ($i = 0; $i < $rows; $i++) {
            $x = (float) $vx[$ox];
            $y = (float) $vy[$oy];
            $z = (float) $vz[$oz];
            $sum = ($x < 0.0 ? -$x : $x) + ($y < 0.0 ? -$y : $y) + ($z < 0.0 ? -$z : $z);
            if ($sum > 1e12 || ! is_finite($sum)) {
                throw UnreadableFile::at($this->path, 'vertex '.($first + $i), 'the coordinates are not finite numbers; export the pass again without invalid points');
            }
            $out[] = $x;
            $out[] = $y;
            $out[] = $z;
            $ox += $wx;
            $oy += $wy;
            $oz += $wz;
        }

        return $out;
    }

    /**
     * @param  list<Run>  $runs
     * @return list<float>
     */
    private function normals(array $runs, int $rows): array
    {
        if (! isset($this->columns['normals'])) {
            return [];
        }
        [$cx, $cy, $cz] = $this->columns['normals'];
        [$vx, $ox, $wx] = self::of($runs, $cx);
        [$vy, $oy, $wy] = self::of($runs, $cy);
        [$vz, $oz, $wz] = self::of($runs, $cz);
        $out = [];
        for ($i = 0; $i < $rows; $i++) {
            $x = (float) $vx[$ox];
            $y = (float) $vy[$oy];
            $z = (float) $vz[$oz];
            $length = sqrt($x * $x + $y * $y + $z * $z);
            $w = $length > 0.0 && $length < INF ? 1.0 / $length : 0.0;
            $out[] = $w === 0.0 ? 0.0 : $x * $w;
            $out[] = $w === 0.0 ? 0.0 : $y * $w;
            $out[] = $w === 0.0 ? 0.0 : $z * $w;
            $ox += $wx;
            $oy += $wy;
            $oz += $wz;
        }

        return $out;
    }

    /**
     * @param  list<Run>  $runs
     * @param  float  $scale  255 for colours of 0 to 1
     * @return list<int>
     */
    private function colours(array $runs, int $rows, float $scale): array
    {
        if (! isset($this->columns['colours'])) {
            return [];
        }
        [$cr, $cg, $cb] = $this->columns['colours'];
        [$vr, $or, $wr] = self::of($runs, $cr);
        [$vg, $og, $wg] = self::of($runs, $cg);
        [$vb, $ob, $wb] = self::of($runs, $cb);
        $out = [];
        // Bytes, as nearly always: without going through floats.
        for ($i = 0; $i < $rows && $scale === 1.0; $i++) {
            $out[] = ($vr[$or] & 255) << 16 | ($vg[$og] & 255) << 8 | ($vb[$ob] & 255);
            $or += $wr;
            $og += $wg;
            $ob += $wb;
        }
        for ($i = 0; $i < $rows && $scale !== 1.0; $i++) {
            $out[] = ((int) ($vr[$or] * $scale) & 255) << 16 | ((int) ($vg[$og] * $scale) & 255) << 8 | ((int) ($vb[$ob] * $scale) & 255);
            $or += $wr;
            $og += $wg;
            $ob += $wb;
        }

        return $out;
    }

    /**
     * @template T
     *
     * @param  list<Run>  $runs
     * @param  callable(int|float): T  $as
     * @return list<T>
     */
    private function single(string $what, array $runs, int $rows, callable $as): array
    {
        if (! isset($this->columns[$what])) {
            return [];
        }
        [$values, $o, $width] = self::of($runs, $this->columns[$what][0]);
        $out = [];
        for ($i = 0; $i < $rows; $i++, $o += $width) {
            $out[] = $as($values[$o]);
        }

        return $out;
    }
}
