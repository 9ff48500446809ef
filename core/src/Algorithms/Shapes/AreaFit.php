<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Fitting\Robust;
use Emberstone\Core\Geometry\Vector3;

/**
 * The shape of an area of a mesh whose faces are known, fitted to the middle of it: edges are rounded and pull.
 *
 * Source    TurnedFit; free form whose normals meet an axis is revolved (LineComplex).
 *
 * @internal
 */
final class AreaFit
{
    /** Rings of faces along a border that the last fit leaves out; fewer where less than TELLING faces would be left. */
    private const RINGS = 4;

    private const TELLING = 200;

    /** Points of the last fit. */
    private const POINTS = 2000;

    /** Sine of the angle by which a normal passes an axis, over which it does not meet it: 6 degrees. */
    private const PASSES = 0.1;

    /** Share of an area whose normals meet the axis, for it to be revolved. */
    private const MEETS = 0.9;

    /** Mean length of the unit vectors from the axis to the area, below which it goes far enough around: 40 degrees. */
    private const AROUND = 0.98;

    /** Mean cosine between the normals of an area and those of its shape. */
    private const FACING = 0.95;

    /** Another kind is taken only if the plainer one errs by more than this many times as much. */
    private const AS_GOOD = 1.3;

    /** mm: a step of the last fit that is smaller ends it. */
    private const CLOSE = 1e-9;

    /**
     * Once more, from a shape that is about right.
     *
     * @param  list<int>  $faces
     */
    public static function again(FaceField $field, array $faces, TurnedShape $shape): FoundShape
    {
        $sample = $field->sample(self::middle($field, $faces), self::POINTS);
        $shape = TurnedFit::refined($shape, $sample['points'], $sample['weights'], self::CLOSE) ?? $shape;
        [$rms, $max] = self::off($shape->distances($sample['points']));

        return new FoundShape($shape->kind, $shape, count($faces), $field->area($faces), $rms, $max);
    }

    /**
     * Revolved about an axis, or free form.
     *
     * @param  list<int>  $faces
     * @param  list<TurnedShape>|null  $axes  tried before one of its own; null: not tried at all
     */
    public static function withoutShape(FaceField $field, array $faces, ?array $axes): FoundShape
    {
        [$shape, $rms, $max] = $axes === null ? [null, 0.0, 0.0] : self::axisMet($field->sample(self::middle($field, $faces), self::POINTS), $axes);

        return new FoundShape($shape === null ? FoundShape::FREE : FoundShape::REVOLVED, $shape, count($faces), $field->area($faces), $rms, $max);
    }

    /**
     * The plainest shape that fits about as well as the best; free form where none fits within a tolerance.
     *
     * @param  list<int>  $faces
     * @param  list<TurnedShape>  $axes  on which a torus may turn
     * @param  float  $tolerance  mm, of the root mean square distance
     */
    public static function plainest(FaceField $field, array $faces, array $axes, float $tolerance): FoundShape
    {
        $sample = $field->sample(self::middle($field, $faces), self::POINTS);
        $turns = array_map(fn (TurnedShape $one) => ['origin' => $one->origin, 'axis' => $one->axis], $axes);
        $found = [];
        foreach (TurnedFit::KINDS as $kind) {
            $start = TurnedFit::start($kind, $sample['points'], $sample['normals'], $turns);
            $shape = $start === null ? null : TurnedFit::refined($start, $sample['points'], $sample['weights'], self::CLOSE);
            if ($shape !== null && self::isFacing($shape, $sample)) {
                $found[] = [TurnedFit::rms($shape, $sample['points']), $shape];
            }
        }
        $best = $found === [] ? INF : min(array_column($found, 0));
        foreach ($best > $tolerance ? [] : $found as [$rms, $shape]) {
            if ($rms <= self::AS_GOOD * $best + 0.01 * $tolerance) {
                return self::again($field, $faces, $shape);
            }
        }

        return self::withoutShape($field, $faces, $axes);
    }

    /**
     * Whether the surface looks along the normals of a shape, by and large: corners alone may lie on many shapes.
     *
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>}  $sample
     */
    private static function isFacing(TurnedShape $shape, array $sample): bool
    {
        $sum = $all = 0.0;
        foreach ($sample['weights'] as $i => $w) {
            $o = 3 * $i;
            $n = $shape->normal($sample['points'][$o], $sample['points'][$o + 1], $sample['points'][$o + 2]);
            $sum += $w * ($n[0] * $sample['normals'][$o] + $n[1] * $sample['normals'][$o + 1] + $n[2] * $sample['normals'][$o + 2]);
            $all += $w;
        }

        return abs($sum) > self::FACING * $all;
    }

    /**
     * @param  list<int>  $faces
     * @return list<int>
     */
    private static function middle(FaceField $field, array $faces): array
    {
        for ($rings = self::RINGS; $rings > 0; $rings--) {
            $middle = $field->inner($faces, $rings);
            if (count($middle) >= min(self::TELLING, 0.5 * count($faces))) {
                return $middle;
            }
        }

        return $faces;
    }

    /**
     * @param  list<float>  $distances
     * @return array{float, float} root mean square and the most of those that belong to it; what stands far off, a dent or the letters of a cast number, does not
     */
    private static function off(array $distances): array
    {
        $own = array_keys(array_filter(Robust::reweight(array_fill(0, count($distances), 1.0), $distances)));
        $squares = $most = 0.0;
        foreach ($own as $k) {
            $squares += $distances[$k] * $distances[$k];
            $most = max($most, abs($distances[$k]));
        }

        return [sqrt($squares / max(1, count($own))), $most];
    }

    /**
     * The axis that the normals of an area meet, if there is one.
     *
     * @param  array{points: list<float>, normals: list<float>, weights: list<float>}  $sample
     * @param  list<TurnedShape>  $axes  tried before one of its own
     * @return array{TurnedShape|null, float, float} and how far the normals pass it
     */
    private static function axisMet(array $sample, array $axes): array
    {
        ['points' => $p, 'normals' => $n, 'weights' => $w] = $sample;
        $middle = [0.0, 0.0, 0.0];
        foreach ($p as $k => $value) {
            $middle[$k % 3] += $value / count($w);
        }
        if (count($w) > 10) {
            [$axis, $moment] = LineComplex::axis($p, $n, $w, $middle);
            $axes[] = new TurnedShape('cylinder', Vector3::plus($middle, Vector3::cross($axis, $moment)), $axis);
        }
        foreach ($axes as $one) {
            $misses = [];
            $radius = $meets = 0.0;
            $around = [0.0, 0.0, 0.0];
            for ($o = 0, $e = count($p); $o < $e; $o += 3) {
                $r = Vector3::minus([$p[$o], $p[$o + 1], $p[$o + 2]], $one->origin);
                $out = Vector3::minus($r, Vector3::scaled($one->axis, Vector3::dot($r, $one->axis)));
                $rho = Vector3::length($out) ?: 1e-12;
                $past = Vector3::dot(Vector3::cross($one->axis, $out), [$n[$o], $n[$o + 1], $n[$o + 2]]) / $rho;
                $meets += abs($past) < self::PASSES ? 1.0 : 0.0;
                $misses[] = $past * $rho;
                $radius += $rho / count($w);
                $around = Vector3::plus($around, Vector3::scaled($out, 1.0 / $rho / count($w)));
            }
            if ($meets >= self::MEETS * count($w) && Vector3::length($around) < self::AROUND) {
                return [new TurnedShape('cylinder', $one->origin, $one->axis, $radius), ...self::off($misses)];
            }
        }

        return [null, 0.0, 0.0];
    }
}
