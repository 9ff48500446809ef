<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Brep\EdgeCurve;
use Emberstone\Core\Exchange\Drawing;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Artefact;

/**
 * An artefact of kind `section`: what its curves measure, and how they are drawn: each plane seen from where its normal points, upright.
 *
 * It holds planes with the curves in them, flat xyz (the inside lies on the left of a curve, seen from where the normal points), and as lines and arcs (see ArcChain).
 *
 * @phpstan-import-type Dimension from SectionDimensions
 * @phpstan-import-type Note from Drawing
 *
 * @phpstan-type Plane array{name: string, point: array{float, float, float}, normal: array{float, float, float}, curves: list<array{closed: bool, points: list<float>, pieces?: list<array{int, float}>}>, dimensions?: list<Dimension>}
 */
final class SectionDrawing
{
    public const KIND = 'section';

    /**
     * Every curve by itself.
     *
     * @return list<array{name: string, plane: array{name: string, point: array{float, float, float}, normal: array{float, float, float}}, closed: bool, length: float, area: float, points: int}> lengths in mm; the
     *                                                                                          area (mm2) is less than 0 for what an opening takes away, and 0 for an open curve
     */
    public static function figures(Artefact $artefact): array
    {
        $scale = $artefact->placement->scale;
        $figures = [];
        foreach (self::planes($artefact) as $plane) {
            foreach ($plane['curves'] as $curve) {
                [$length, $area] = self::measured($curve, $plane['normal']);
                $figures[] = [
                    'name' => $artefact->name,
                    'plane' => ['name' => $plane['name'], 'point' => $artefact->placement->point($plane['point']), 'normal' => $artefact->placement->pose->direction($plane['normal'])],
                    'closed' => $curve['closed'], 'length' => $scale * $length, 'area' => $scale * $scale * $area, 'points' => intdiv(count($curve['points']), 3),
                ];
            }
        }

        return $figures;
    }

    /** @return list<Plane> none of an artefact of another kind */
    private static function planes(Artefact $artefact): array
    {
        return $artefact->kind === self::KIND ? $artefact->data['planes'] ?? [] : [];
    }

    /**
     * @param  array{closed: bool, points: list<float>}  $curve
     * @param  array{float, float, float}  $normal
     * @return array{float, float}
     */
    private static function measured(array $curve, array $normal): array
    {
        $p = $curve['points'];
        $n = count($p);
        $length = 0.0;
        $sum = [0.0, 0.0, 0.0];
        // About the first point, or far from the origin the area would be a small difference of large numbers.
        $from = array_slice($p, 0, 3);
        $a = [0.0, 0.0, 0.0];
        for ($o = 3; $o < $n + ($curve['closed'] ? 3 : 0); $o += 3) {
            $b = Vector3::minus(array_slice($p, $o % $n, 3), $from);
            $length += Vector3::length(Vector3::minus($b, $a));
            $cross = Vector3::cross($a, $b);
            $sum = [$sum[0] + $cross[0], $sum[1] + $cross[1], $sum[2] + $cross[2]];
            $a = $b;
        }

        return [$length, $curve['closed'] ? 0.5 * Vector3::dot($sum, $normal) : 0.0];
    }

    /** As a drawing with a layer for each plane. */
    public static function of(Artefact $artefact, Unit $unit): Drawing
    {
        $layers = $taken = $notes = [];
        $scale = 1.0 / $unit->inMillimetres();
        foreach (self::planes($artefact) as $plane) {
            $normal = $artefact->placement->pose->direction($plane['normal']);
            $paths = [];
            foreach ($plane['curves'] as $curve) {
                $placed = [];
                foreach (array_chunk($curve['points'], 3) as [$x, $y, $z]) {
                    array_push($placed, ...$artefact->placement->point([$x, $y, $z]));
                }
                $paths[] = ['closed' => $curve['closed'], 'vertices' => self::vertices(self::flat($placed, $normal), $curve, $scale)];
            }
            $name = $plane['name'];
            for ($k = 2; isset($taken[$name]); $k++) {
                $name = "{$plane['name']} $k";
            }
            $taken[$name] = true;
            $layers[] = ['name' => $name, 'paths' => $paths];
            array_push($notes, ...self::notes($plane['dimensions'] ?? [], $artefact->placement, $normal, $unit));
        }

        return new Drawing($layers, $unit, $notes);
    }

    /**
     * The curves where they stand in the project, in mm: what was made lines and arcs as such, others from point to point.
     *
     * @return list<EdgeCurve>
     */
    public static function inSpace(Artefact $artefact): array
    {
        $curves = [];
        foreach (self::planes($artefact) as $plane) {
            $normal = $artefact->placement->pose->direction($plane['normal']);
            foreach ($plane['curves'] as $curve) {
                $points = array_map(fn (array $at) => $artefact->placement->point([$at[0], $at[1], $at[2]]), array_chunk($curve['points'], 3));
                if (count($points) < 2) {
                    continue;
                }
                if (! isset($curve['pieces'])) {
                    $curves[] = EdgeCurve::polyline([...$points, ...($curve['closed'] ? [$points[0]] : [])]);

                    continue;
                }
                for ($k = 1; $k < count($curve['pieces']); $k++) {
                    [$from, $to] = [$points[$curve['pieces'][$k - 1][0]], $points[$curve['pieces'][$k][0]]];
                    $bulge = $curve['pieces'][$k][1];
                    $curves[] = $bulge === 0.0 ? EdgeCurve::line($from, $to) : EdgeCurve::arc($from, $to, $normal, $bulge);
                }
            }
        }

        return $curves;
    }

    /** Every point of every curve as a line of text: the plane, the number of the curve, whether it is closed, and where the point is in the project, in a unit. */
    public static function csv(Artefact $artefact, Unit $unit): string
    {
        $lines = ["plane,curve,closed,x ($unit->value),y ($unit->value),z ($unit->value)"];
        $number = 0;
        foreach (self::planes($artefact) as $plane) {
            $name = '"'.str_replace('"', '""', $plane['name']).'"';
            foreach ($plane['curves'] as $curve) {
                $number++;
                foreach (array_chunk($curve['points'], 3) as [$x, $y, $z]) {
                    $at = array_map(fn (float $v) => Format::plain($v / $unit->inMillimetres(), 9), $artefact->placement->point([$x, $y, $z]));
                    $lines[] = "$name,$number,".($curve['closed'] ? 'yes' : 'no').','.implode(',', $at);
                }
            }
        }

        return implode("\r\n", $lines)."\r\n";
    }

    /**
     * @param  list<array{float, float}>  $points
     * @param  array{closed: bool, points: list<float>, pieces?: list<array{int, float}>}  $curve
     * @return list<array{float, float, float}> with the bulge of the piece that leaves each
     */
    private static function vertices(array $points, array $curve, float $scale): array
    {
        $pieces = $curve['pieces'] ?? [...array_map(fn (int $k) => [$k, 0.0], array_keys($points)), ...($curve['closed'] ? [[0, 0.0]] : [])];
        $vertices = [];
        foreach ($pieces as $k => [$at]) {
            // The end of a closed curve is its beginning.
            if ($k < count($pieces) - 1 || ! $curve['closed']) {
                $vertices[] = [$scale * $points[$at][0], $scale * $points[$at][1], $pieces[$k + 1][1] ?? 0.0];
            }
        }

        return $vertices;
    }

    /**
     * In the plane: seen from where the normal points, with Z of the frame upwards; a level plane with Y upwards.
     *
     * @param  array<int, float>  $points  flat xyz
     * @param  array{float, float, float}  $normal  of length 1
     * @return list<array{float, float}>
     */
    public static function flat(array $points, array $normal): array
    {
        $v = self::upright($normal);
        $u = Vector3::cross($v, $normal);

        return array_map(fn (array $p) => [Vector3::dot($p, $u), Vector3::dot($p, $v)], array_chunk($points, 3));
    }

    /**
     * What is upwards in a plane.
     *
     * @param  array{float, float, float}  $normal  of length 1
     * @return array{float, float, float} of length 1
     */
    public static function upright(array $normal): array
    {
        $up = abs($normal[2]) < 0.999 ? [0.0, 0.0, 1.0] : [0.0, 1.0, 0.0];

        return Vector3::unit(Vector3::minus($up, Vector3::scaled($normal, Vector3::dot($up, $normal))));
    }

    /**
     * Dimensions as a drawing has them: the line itself, lines to it from what it tells, and the value beside its middle.
     *
     * @param  list<Dimension>  $dimensions
     * @param  array{float, float, float}  $normal  where the plane is now
     * @return list<Note>
     */
    private static function notes(array $dimensions, Placement $placement, array $normal, Unit $unit): array
    {
        $scale = 1.0 / $unit->inMillimetres();
        // A hundredth of a millimetre, or what comes nearest to it.
        $digits = (int) round(2.0 + log10($unit->inMillimetres()));
        $notes = [];
        foreach ($dimensions as $one) {
            $flat = array_map(fn (array $p) => [$scale * $p[0], $scale * $p[1]], self::flat(array_merge(...array_map($placement->point(...), [...$one['line'], ...$one['feet']])), $normal));
            [$from, $to] = $flat;
            $turn = rad2deg(atan2($to[1] - $from[1], $to[0] - $from[0]));
            $notes[] = [
                'lines' => [[...$from, ...$to], ...array_map(fn (array $foot, array $end) => [...$foot, ...$end], array_slice($flat, 2), $one['feet'] === [] ? [] : [$from, $to])],
                'words' => SectionDimensions::words($one, $scale * $placement->scale, $digits),
                'at' => [0.5 * ($from[0] + $to[0]), 0.5 * ($from[1] + $to[1])],
                // Never upside down.
                'turn' => round($turn > 90.0 + 1e-6 ? $turn - 180.0 : ($turn <= -90.0 + 1e-6 ? $turn + 180.0 : $turn), 6),
            ];
        }

        return $notes;
    }
}
