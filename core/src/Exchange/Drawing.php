<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Unit;

/** Curves in a plane, by layers, as drawings hold them. */
final readonly class Drawing
{
    /**
     * @param  list<array{name: string, paths: list<array{closed: bool, vertices: list<array{float, float, float}>}>}>  $layers  of each vertex x, y and the bulge of the piece that leaves it: the
     *                                                                                                              tangent of a quarter of its turn, positive against the clock, 0 when straight
     */
    public function __construct(public array $layers, public Unit $unit)
    {
    }

    /** @return array{float, float, float, float} least and largest x and y of all curves */
    public function box(): array
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
     * Where an arc turns back along X or Y.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @return list<array{float, float}>
     */
    private static function turns(array $from, array $to, float $bulge): array
    {
        // The centre lies to the left of the middle by (1 - bulge^2) / (4 bulge) of the way from end to end.
        $by = (1.0 - $bulge * $bulge) / (4.0 * $bulge);
        $cx = 0.5 * ($from[0] + $to[0]) - $by * ($to[1] - $from[1]);
        $cy = 0.5 * ($from[1] + $to[1]) + $by * ($to[0] - $from[0]);
        $r = hypot($from[0] - $cx, $from[1] - $cy);
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
