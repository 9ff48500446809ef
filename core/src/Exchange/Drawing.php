<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Unit;

/**
 * Curves in a plane, by layers, as drawings hold them.
 *
 * @phpstan-type Note array{lines: list<array{float, float, float, float}>, words: string, at: array{float, float}, turn: float}
 */
final readonly class Drawing
{
    /** Of the size of all curves: letters that are read on a sheet that the drawing fills. */
    private const LETTERS = 0.025;

    /**
     * @param  list<array{name: string, paths: list<array{closed: bool, vertices: list<array{float, float, float}>}>}>  $layers  of each vertex x, y and the bulge of the piece that leaves it: the
     *                                                                                                              tangent of a quarter of its turn, positive against the clock, 0 when straight
     * @param  list<Note>  $notes  dimensions: straight lines (x, y, x, y), and words that stand above a place, turned by degrees against the clock
     */
    public function __construct(public array $layers, public Unit $unit, public array $notes = [])
    {
    }

    /** Height of the letters of notes. */
    public function letters(): float
    {
        [$left, $bottom, $right, $top] = $this->curvesBox();

        return self::LETTERS * max($right - $left, $top - $bottom);
    }

    /** @return array{float, float, float, float} least and largest x and y of all curves and notes */
    public function box(): array
    {
        $box = $this->curvesBox();
        $letters = $this->notes === [] ? 0.0 : $this->letters();
        foreach ($this->notes as $note) {
            $half = 0.5 * $letters * mb_strlen($note['words']);
            // Whichever way the words are turned.
            $places = [[$note['at'][0] - $half, $note['at'][1] - $half], [$note['at'][0] + $half, $note['at'][1] + $half], ...array_merge(...array_map(fn (array $line) => [[$line[0], $line[1]], [$line[2], $line[3]]], $note['lines']))];
            foreach ($places as [$x, $y]) {
                $box = [min($box[0], $x), min($box[1], $y), max($box[2], $x), max($box[3], $y)];
            }
        }

        return $box;
    }

    /** @return array{float, float, float, float} least and largest x and y of all curves */
    private function curvesBox(): array
    {
        $box = [INF, INF, -INF, -INF];
        foreach ($this->layers as $layer) {
            foreach ($layer['paths'] as $path) {
                foreach ($path['vertices'] as $k => [$x, $y, $bulge]) {
                    [$u, $v] = $path['vertices'][($k + 1) % count($path['vertices'])];
                    $places = [[$x, $y], ...($bulge === 0.0 ? [] : self::turns([$x, $y], [$u, $v], $bulge))];
                    foreach ($places as [$px, $py]) {
                        $box = [min($box[0], $px), min($box[1], $py), max($box[2], $px), max($box[3], $py)];
                    }
                }
            }
        }

        return $box[0] <= $box[2] ? $box : [0.0, 0.0, 0.0, 0.0];
    }

    /**
     * The circle that a piece with a bulge lies on.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @return array{array{float, float}, float} centre and radius
     */
    public static function arc(array $from, array $to, float $bulge): array
    {
        // The centre lies to the left of the middle by (1 - bulge^2) / (4 bulge) of the way from end to end.
        $by = (1.0 - $bulge * $bulge) / (4.0 * $bulge);
        $centre = [0.5 * ($from[0] + $to[0]) - $by * ($to[1] - $from[1]), 0.5 * ($from[1] + $to[1]) + $by * ($to[0] - $from[0])];

        return [$centre, hypot($from[0] - $centre[0], $from[1] - $centre[1])];
    }

    /**
     * Where an arc turns back along X or Y.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @return list<array{float, float}>
     */
    private static function turns(array $from, array $to, float $bulge): array
    {
        [[$cx, $cy], $r] = self::arc($from, $to, $bulge);
        $begins = $bulge > 0.0 ? atan2($from[1] - $cy, $from[0] - $cx) : atan2($to[1] - $cy, $to[0] - $cx);
        $sweep = 4.0 * atan(abs($bulge));
        $turns = [];
        foreach ([[0.0, 1.0, 0.0], [0.5 * M_PI, 0.0, 1.0], [M_PI, -1.0, 0.0], [1.5 * M_PI, 0.0, -1.0]] as [$angle, $x, $y]) {
            if (fmod($angle - $begins + 4.0 * M_PI, 2.0 * M_PI) < $sweep) {
                $turns[] = [$cx + $r * $x, $cy + $r * $y];
            }
        }

        return $turns;
    }
}
