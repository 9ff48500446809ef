<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\MeanProfile;
use Emberstone\Core\Algorithms\Cutting\PlaneSection;
use Emberstone\Core\Algorithms\Fitting\ArcChain;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\PlaneChoice;

/** The mean half-section of a body about an axis, in the half-plane at 0 degrees. */
final class HalfSection
{
    /** How many planes through the axis are cut for a number of half-sections: each plane gives two, one on either side of the axis. */
    public static function planes(int $halves): int
    {
        return intdiv(($halves > 1 ? $halves : SectionParameters::AROUND) + 1, 2);
    }

    /**
     * @param  int  $count  half-sections all around; 1 for as many as serve
     * @return list<array{name: string, point: array{float, float, float}, normal: array{float, float, float}, spread: array{rms: float, max: float}, curves: list<array{closed: bool, points: list<float>, spread: list<float>, pieces?: list<array{int, float}>}>}> one plane, as SectionDrawing holds it; spread: standard deviations across the profile, mm
     *
     * @throws UnsuitableInput when nothing is the same all around
     */
    public static function drawn(TriangleMesh $mesh, AxisChoice $axis, int $count, ?float $fit): array
    {
        $across = $axis->across();
        $planes = self::planes($count);
        $halves = [];
        for ($k = 0; $k < $planes; $k++) {
            $plane = PlaneChoice::through($axis, $across, 180.0 * $k / $planes);
            [$curves] = (new PlaneSection($mesh->positions, $mesh->faces, $plane->normal))->at([Vector3::dot($axis->point, $plane->normal)]);
            // To the right in the plane, seen from where its normal points.
            $right = Vector3::unit(Vector3::cross($plane->normal, $axis->direction));
            foreach ([1.0, -1.0] as $side) {
                $half = self::half($curves, $axis, Vector3::scaled($right, $side), $side < 0.0);
                $half === [] || $halves[] = $half;
            }
        }
        $profile = $halves === [] ? [] : MeanProfile::of($halves);
        if ($profile === []) {
            throw UnsuitableInput::because("Nothing is the same all around $axis->name: choose the axis that the part is turned about.");
        }
        $plane = PlaneChoice::through($axis, $across, 0.0);
        $right = Vector3::unit(Vector3::cross($plane->normal, $axis->direction));
        $spreads = array_merge(...array_column($profile, 'spread'));

        return [['name' => "mean around $axis->name", 'point' => $plane->point, 'normal' => $plane->normal, 'spread' => ['rms' => sqrt(array_sum(array_map(fn (float $s) => $s * $s, $spreads)) / count($spreads)), 'max' => max($spreads)], 'curves' => array_map(function (array $curve) use ($axis, $right, $plane, $fit): array {
            $points = [];
            foreach (array_chunk($curve['points'], 2) as [$r, $h]) {
                array_push($points, ...Vector3::plus(Vector3::plus($axis->point, Vector3::scaled($right, $r)), Vector3::scaled($axis->direction, $h)));
            }

            return ['closed' => $curve['closed'], 'points' => $points, 'spread' => $curve['spread']] + ($fit === null ? [] : ['pieces' => ArcChain::of(SectionDrawing::flat($points, $plane->normal), $curve['closed'], $fit)]);
        }, $profile)]];
    }

    /**
     * What of the curves of a plane lies on one side of the axis, as r and h; what ends there ends on the axis.
     *
     * @param  list<array{closed: bool, points: list<float>}>  $curves
     * @param  array{float, float, float}  $out  of length 1, away from the axis
     * @param  bool  $mirrored  the side where going around is the other way
     * @return list<array{closed: bool, points: list<float>}>
     */
    private static function half(array $curves, AxisChoice $axis, array $out, bool $mirrored): array
    {
        $half = [];
        foreach ($curves as $curve) {
            $p = [];
            foreach (array_chunk($curve['points'], 3) as [$x, $y, $z]) {
                $way = Vector3::minus([$x, $y, $z], $axis->point);
                $p[] = [Vector3::dot($way, $out), Vector3::dot($way, $axis->direction)];
            }
            foreach (self::beyondAxis($p, $curve['closed']) as $part) {
                $part['points'] = array_merge(...($mirrored ? array_reverse($part['points']) : $part['points']));
                $half[] = $part;
            }
        }

        return $half;
    }

    /**
     * @param  list<array{float, float}>  $p
     * @return list<array{closed: bool, points: non-empty-list<array{float, float}>}>
     */
    private static function beyondAxis(array $p, bool $isClosed): array
    {
        $inside = array_keys(array_filter($p, fn (array $at) => $at[0] < 0.0));
        if ($p === [] || count($inside) === count($p)) {
            return [];
        }
        if ($inside === []) {
            return [['closed' => $isClosed, 'points' => $p]];
        }
        // A closed curve begins on the other side, so that no part is cut where it happens to begin.
        if ($isClosed) {
            $p = [...array_slice($p, $inside[0]), ...array_slice($p, 0, $inside[0] + 1)];
        }
        $parts = $now = [];
        foreach ($p as $k => $at) {
            $before = $p[$k - 1] ?? $at;
            if (($before[0] < 0.0) !== ($at[0] < 0.0)) {
                $t = $before[0] / ($before[0] - $at[0]);
                $now[] = [0.0, $before[1] + $t * ($at[1] - $before[1])];
            }
            if ($at[0] >= 0.0) {
                $now[] = $at;
            } elseif ($now !== []) {
                count($now) > 2 && $parts[] = ['closed' => false, 'points' => $now];
                $now = [];
            }
        }
        count($now) > 2 && $parts[] = ['closed' => false, 'points' => $now];

        return $parts;
    }
}
