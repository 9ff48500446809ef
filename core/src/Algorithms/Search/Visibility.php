<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * What one pass saw from where its sensor stood: the range in every direction. A surface that another pass puts before it,
 * where this one looked through, cannot be there: one of the two poses is wrong.
 *
 * Directions are cells on the faces of a cube around the sensor. Source: free-space checks after Pulli 1999, section 4.
 */
final class Visibility
{
    public const NEITHER = '-';

    public const AGREES = 'a';

    public const BEFORE = 'b';

    /**
     * @param  array<int, float>  $near  cell => shortest range
     * @param  array<int, float>  $far  cell => longest range
     * @param  array<int, float>  $sensor
     */
    private function __construct(
        private readonly array $near,
        private readonly array $far,
        private readonly array $sensor,
        private readonly float $cells,
    ) {
    }

    /**
     * @param  array<int, float>  $positions  flat xyz, in the pass' own coordinates
     * @param  array<int, float>  $sensor  xyz
     */
    public static function of(array $positions, array $sensor, float $spacing): self
    {
        [$sx, $sy, $sz] = $sensor;
        $n = count($positions);
        $sum = 0.0;
        for ($o = 0; $o < $n; $o += 3) {
            $sum += sqrt(($positions[$o] - $sx) ** 2 + ($positions[$o + 1] - $sy) ** 2 + ($positions[$o + 2] - $sz) ** 2);
        }
        // About three points a cell: fewer leave chinks that nothing was seen through.
        $cells = 3.0 * $sum / $n / (1.7 * max(1e-9, $spacing));
        $near = $far = [];
        for ($o = 0; $o < $n; $o += 3) {
            $range = 0.0;
            $key = self::cell($positions[$o] - $sx, $positions[$o + 1] - $sy, $positions[$o + 2] - $sz, $cells, $range);
            if (! isset($near[$key])) {
                $near[$key] = $far[$key] = $range;
            } elseif ($range < $near[$key]) {
                $near[$key] = $range;
            } elseif ($range > $far[$key]) {
                $far[$key] = $range;
            }
        }

        return new self($near, $far, $sensor, $cells);
    }

    /**
     * How many of the points of another pass stand how to what this one saw.
     *
     * @param  array<int, float>  $points  flat xyz, in this pass' own coordinates
     * @return array{agree: int, before: int}
     */
    public function judge(array $points, float $tolerance): array
    {
        $verdicts = $this->verdicts($points, $tolerance);

        return ['agree' => substr_count($verdicts, self::AGREES), 'before' => substr_count($verdicts, self::BEFORE)];
    }

    /**
     * How points stand to what this pass saw.
     *
     * @param  array<int, float>  $points  flat xyz, in the pass' own coordinates
     * @return string a byte a point: BEFORE, in space this pass looked through, by more than $tolerance; AGREES; or neither
     */
    public function verdicts(array $points, float $tolerance): string
    {
        [$sx, $sy, $sz] = $this->sensor;
        $near = $this->near;
        $far = $this->far;
        $verdicts = str_repeat(self::NEITHER, intdiv(count($points), 3));
        $row = self::row($this->cells);
        $steps = [-$row - 1, -$row, -$row + 1, -1, 1, $row - 1, $row, $row + 1];
        for ($o = 0, $n = count($points); $o < $n; $o += 3) {
            $range = 0.0;
            $key = self::cell($points[$o] - $sx, $points[$o + 1] - $sy, $points[$o + 2] - $sz, $this->cells, $range);
            if (! isset($near[$key])) {
                continue;
            }
            $first = $near[$key];
            $last = $far[$key];
            // What neighbours saw only widens the stretch in which surface is.
            if ($range >= $first - $tolerance && $range < $last + $tolerance) {
                $verdicts[intdiv($o, 3)] = self::AGREES;

                continue;
            }
            $missing = 0;
            foreach ($steps as $step) {
                if (! isset($near[$key + $step])) {
                    $missing++;

                    continue;
                }
                if ($near[$key + $step] < $first) {
                    $first = $near[$key + $step];
                }
                if ($far[$key + $step] > $last) {
                    $last = $far[$key + $step];
                }
            }
            if ($range < $first - $tolerance) {
                // At the rim of what was seen a place may have been missed rather than looked through.
                if ($missing === 0) {
                    $verdicts[intdiv($o, 3)] = self::BEFORE;
                }
            } elseif ($range < $last + $tolerance) {
                $verdicts[intdiv($o, 3)] = self::AGREES;
            }
        }

        return $verdicts;
    }

    /** Cells a row of a face has, and one more, so that no row's end lies beside the next one's beginning. */
    private static function row(float $cells): int
    {
        return (int) ($cells * 2.0 / 3.0) + 2;
    }

    private static function cell(float $x, float $y, float $z, float $cells, float &$range): int
    {
        $range = sqrt($x * $x + $y * $y + $z * $z);
        $ax = $x < 0.0 ? -$x : $x;
        $ay = $y < 0.0 ? -$y : $y;
        $az = $z < 0.0 ? -$z : $z;
        if ($ax >= $ay && $ax >= $az) {
            [$face, $u, $v, $w] = [$x < 0.0 ? 1 : 0, $y, $z, $ax];
        } elseif ($ay >= $az) {
            [$face, $u, $v, $w] = [$y < 0.0 ? 3 : 2, $x, $z, $ay];
        } else {
            [$face, $u, $v, $w] = [$z < 0.0 ? 5 : 4, $x, $y, $az];
        }
        if ($w <= 0.0) {
            return -1;
        }
        $half = $cells / 3.0;
        $row = self::row($cells);

        return ($face * $row + (int) (($u / $w + 1.0) * $half)) * $row + (int) (($v / $w + 1.0) * $half);
    }
}
