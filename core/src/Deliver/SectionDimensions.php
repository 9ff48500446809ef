<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Exchange\Drawing;
use Emberstone\Core\Geometry\Vector3;

/**
 * The dimensions of what was drawn in a plane: how wide and high it is, and of what was made lines and arcs the lengths, radii and diameters; each size once.
 *
 * Input     the curves of a plane with their pieces (see ArcChain), of any unit; the inside lies on the left of a curve, seen from where the normal points.
 * Output    lines to be drawn beside the curves, in the same unit: lengths parallel to what they tell, outside of it; radii from the arc outwards.
 * Error     that of the pieces: no point of the curve lies farther from its piece than the tolerance it was fitted with.
 *
 * @phpstan-import-type Plane from SectionDrawing
 *
 * @phpstan-type Dimension array{sign: string, many: int, value: float, line: array{array{float, float, float}, array{float, float, float}}, feet: list<array{float, float, float}>}
 * @phpstan-type Flat array{sign: string, many: int, value: float, from: array{float, float}, to: array{float, float}, feet: list<array{float, float}>, along: float}
 */
final class SectionDimensions
{
    /** Shares of the size of the drawing: how far a length is drawn beside its piece, and the width and height beside all. */
    private const BESIDE = 0.05;

    private const OUTSIDE = 0.11;

    /** Pieces shorter than this share of the size get no dimension: the drawing would be covered by them. */
    private const SHORT = 0.03;

    /** Degrees; an arc that turns less says little about its radius. */
    private const LEAST_TURN = 20.0;

    /** Lengths, and radii, of a plane at most: the largest ones. */
    private const MOST = 12;

    /** Sizes that are the same to this share are said once: a tenth of what a drawing is read to. */
    private const SAME = 0.002;

    /**
     * @param  Plane  $plane
     * @return list<Dimension>
     */
    public static function of(array $plane): array
    {
        $flats = array_map(fn (array $curve) => SectionDrawing::flat($curve['points'], $plane['normal']), $plane['curves']);
        $all = array_merge(...$flats);
        if ($all === []) {
            return [];
        }
        [$xs, $ys] = [array_column($all, 0), array_column($all, 1)];
        [$left, $right, $bottom, $top] = [min($xs), max($xs), min($ys), max($ys)];
        $size = max($right - $left, $top - $bottom);
        $lengths = $rounds = [];
        foreach ($plane['curves'] as $k => $curve) {
            foreach (self::pieces($flats[$k], $curve, $size) as $piece) {
                $piece['sign'] === '' ? $lengths[] = $piece : $rounds[] = $piece;
            }
        }
        $out = self::OUTSIDE * $size;
        $overall = [
            ['sign' => '', 'many' => 1, 'value' => $right - $left, 'from' => [$left, $bottom - $out], 'to' => [$right, $bottom - $out], 'feet' => [[$left, $bottom], [$right, $bottom]], 'along' => 0.0],
            ['sign' => '', 'many' => 1, 'value' => $top - $bottom, 'from' => [$left - $out, $bottom], 'to' => [$left - $out, $top], 'feet' => [[$left, $bottom], [$left, $top]], 'along' => 0.5 * M_PI],
        ];
        $found = [...self::once([...$overall, ...$lengths], self::MOST + 2, false), ...self::once($rounds, self::MOST, true)];

        return array_map(fn (array $one) => self::inSpace($one, $plane), $found);
    }

    /**
     * @param  list<array{float, float}>  $points
     * @param  array{closed: bool, points: list<float>, pieces?: list<array{int, float}>}  $curve
     * @return list<Flat>
     */
    private static function pieces(array $points, array $curve, float $size): array
    {
        $found = [];
        $pieces = $curve['pieces'] ?? [];
        $round = $curve['closed'] ? self::circle($points, $pieces) : null;
        if ($round !== null) {
            [[$x, $y], $r] = $round;

            // Across, a little out of the level, so that it does not lie on an axis.
            [$u, $v] = [$r * cos(M_PI / 6.0), $r * sin(M_PI / 6.0)];

            return 2.0 * $r < self::SHORT * $size ? [] : [['sign' => 'Ø', 'many' => 1, 'value' => 2.0 * $r, 'from' => [$x - $u, $y - $v], 'to' => [$x + $u, $y + $v], 'feet' => [], 'along' => 0.0]];
        }
        for ($k = 1; $k < count($pieces); $k++) {
            [$a, $b, $bulge] = [$points[$pieces[$k - 1][0]], $points[$pieces[$k][0]], $pieces[$k][1]];
            $chord = hypot($b[0] - $a[0], $b[1] - $a[1]);
            if ($chord <= 0.0) {
                continue;
            }
            // To the right of the way from a to b: outside.
            $out = [($b[1] - $a[1]) / $chord, ($a[0] - $b[0]) / $chord];
            if ($bulge === 0.0) {
                $by = self::BESIDE * $size;
                $chord < self::SHORT * $size || $found[] = ['sign' => '', 'many' => 1, 'value' => $chord, 'from' => [$a[0] + $by * $out[0], $a[1] + $by * $out[1]], 'to' => [$b[0] + $by * $out[0], $b[1] + $by * $out[1]], 'feet' => [$a, $b], 'along' => fmod(atan2($b[1] - $a[1], $b[0] - $a[0]) + 2.0 * M_PI, M_PI)];

                continue;
            }
            [$centre, $r] = Drawing::arc($a, $b, $bulge);
            $turn = rad2deg(4.0 * atan(abs($bulge)));
            if ($turn < self::LEAST_TURN || $r * deg2rad($turn) < self::SHORT * $size) {
                continue;
            }
            // The middle of the arc lies beside that of its chord by half the chord times the bulge.
            $middle = [0.5 * ($a[0] + $b[0]) + 0.5 * $chord * $bulge * $out[0], 0.5 * ($a[1] + $b[1]) + 0.5 * $chord * $bulge * $out[1]];
            $away = $bulge > 0.0 ? 1.0 : -1.0;
            $by = 2.0 * self::BESIDE * $size;
            $found[] = ['sign' => 'R', 'many' => 1, 'value' => $r, 'from' => $middle, 'to' => [$middle[0] + $away * $by * $out[0], $middle[1] + $away * $by * $out[1]], 'feet' => [], 'along' => 0.0];
        }

        return $found;
    }

    /**
     * The circle that a closed curve is, where all of its pieces are arcs of it.
     *
     * @param  list<array{float, float}>  $points
     * @param  list<array{int, float}>  $pieces
     * @return array{array{float, float}, float}|null centre and radius
     */
    private static function circle(array $points, array $pieces): ?array
    {
        $sum = [0.0, 0.0, 0.0, 0.0];
        $arcs = [];
        for ($k = 1; $k < count($pieces); $k++) {
            [$a, $b, $bulge] = [$points[$pieces[$k - 1][0]], $points[$pieces[$k][0]], $pieces[$k][1]];
            if ($bulge === 0.0) {
                return null;
            }
            [$centre, $r] = Drawing::arc($a, $b, $bulge);
            $turn = 4.0 * atan($bulge);
            $arcs[] = [$centre, $r];
            $sum = [$sum[0] + $turn * $centre[0], $sum[1] + $turn * $centre[1], $sum[2] + $turn * $r, $sum[3] + $turn];
        }
        if ($arcs === [] || abs(abs($sum[3]) - 2.0 * M_PI) > 0.1) {
            return null;
        }
        [$x, $y, $r] = [$sum[0] / $sum[3], $sum[1] / $sum[3], $sum[2] / $sum[3]];
        foreach ($arcs as [$centre, $own]) {
            if (abs($own - $r) > 0.02 * $r || hypot($centre[0] - $x, $centre[1] - $y) > 0.02 * $r) {
                return null;
            }
        }

        return [[$x, $y], $r];
    }

    /**
     * Those of one size once, the largest first: lengths where they run the same way, radii with how many there are.
     *
     * @param  list<Flat>  $found
     * @return list<Flat>
     */
    private static function once(array $found, int $most, bool $counts): array
    {
        /** @var list<Flat> $kept */
        $kept = [];
        foreach ($found as $one) {
            foreach ($kept as $k => $other) {
                $across = abs($one['along'] - $other['along']);
                if ($one['sign'] === $other['sign'] && abs($one['value'] - $other['value']) <= self::SAME * $other['value'] && min($across, M_PI - $across) < 0.01) {
                    $kept[$k]['many'] += $counts ? 1 : 0;

                    continue 2;
                }
            }
            $kept[] = $one;
        }
        usort($kept, fn (array $a, array $b) => $b['value'] <=> $a['value']);

        return array_slice($kept, 0, $most);
    }

    /**
     * @param  Flat  $one
     * @param  Plane  $plane
     * @return Dimension
     */
    private static function inSpace(array $one, array $plane): array
    {
        $up = SectionDrawing::upright($plane['normal']);
        $right = Vector3::cross($up, $plane['normal']);
        // What the normal has of the way to the plane is the same for all of it.
        $base = Vector3::scaled($plane['normal'], Vector3::dot($plane['point'], $plane['normal']));
        $at = fn (array $p): array => Vector3::plus($base, Vector3::plus(Vector3::scaled($right, $p[0]), Vector3::scaled($up, $p[1])));

        return ['sign' => $one['sign'], 'many' => $one['many'], 'value' => $one['value'], 'line' => [$at($one['from']), $at($one['to'])], 'feet' => array_map($at, $one['feet'])];
    }

    /**
     * "4 × Ø 9.02", in a unit, without its name.
     *
     * @param  Dimension  $dimension
     * @param  float  $scale  of the unit to that of the dimension
     */
    public static function words(array $dimension, float $scale, int $digits): string
    {
        return ($dimension['many'] > 1 ? "{$dimension['many']} × " : '').($dimension['sign'] === '' ? '' : "{$dimension['sign']} ").number_format($scale * $dimension['value'], $digits, '.', '');
    }
}
