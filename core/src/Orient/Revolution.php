<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Algorithms\Fitting\OutlineAxis;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Shapes\LineComplex;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/**
 * The axis about which a whole shape is turned, from samples spread evenly over it.
 *
 * Source    the line complex that the normals belong to (LineComplex), else the outline's axis (OutlineAxis); Tukey's biweight.
 */
final class Revolution
{
    /** Share of the size: a normal that passes the axis nearer than this looks straight at it. */
    private const SAME = 0.01;

    /** Less of the surface than this looking at the axis is no shape that was turned. */
    private const LEAST = 0.6;

    /** Samples whose outline is looked at. */
    private const OUTLINED = 3000;

    /** An outline is round when the surface is off it by no more than this share of its radius. */
    private const ROUGH = 0.08;

    /** The axis goes through the shape: it passes its middle within this share of the size. */
    private const INSIDE = 0.25;

    /** How many times as bad the next best axis must be. */
    private const CLEARER = 1.5;

    /**
     * The axis about which a shape is turned.
     *
     * @return array{datum: Datum, share: float|null} share: of the surface whose normals meet the axis; null where only the outline is round
     *
     * @throws UnsuitableInput when it is not round, or round about more than one axis
     */
    public static function axis(TriangleMesh $mesh, string $name): array
    {
        $size = BoundingBox::of($mesh->positions)->diagonal();
        ['points' => $q, 'normals' => $n] = SurfaceSamples::of($mesh);
        $middle = SurfaceSamples::middle($q);
        $count = intdiv(count($q), 3);
        $use = array_fill(0, $count, 1.0);
        $e = $use;
        $a = [0.0, 0.0, 1.0];
        $moment = [0.0, 0.0, 0.0];
        $spread = [0.0, 0.0, 0.0];
        for ($round = 0; $round < 20; $round++) {
            [$a, $moment, $spread] = LineComplex::axis($q, $n, $use, $middle);
            for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
                $r = [$q[$o] - $middle[0], $q[$o + 1] - $middle[1], $q[$o + 2] - $middle[2]];
                $normal = [$n[$o], $n[$o + 1], $n[$o + 2]];
                $e[$i] = Vector3::dot($a, Vector3::cross($r, $normal)) + Vector3::dot($moment, $normal);
            }
            $cut = max(4.685 * 1.4826 * Median::of(array_map(abs(...), $e)), 1e-6 * $size);
            foreach ($e as $i => $v) {
                $use[$i] = abs($v) < $cut ? (1.0 - ($v / $cut) ** 2) ** 2 : 0.0;
            }
        }
        $share = count(array_filter($e, fn (float $v) => abs($v) < self::SAME * $size)) / max(1, $count);
        if ($share < self::LEAST) {
            return self::outline($q, $n, $middle, $size, $name) ?? throw UnsuitableInput::because(sprintf('This shape is not round about an axis: %d %% of the surface looks straight at the best one, nor is its outline round. Fit a cylinder or cone to a part of it instead.', round(100.0 * $share)));
        }
        // Were a second axis hardly worse, every line between the two would do as well.
        if ($spread[1] < max(9.0 * $spread[0], (0.02 * $size) ** 2)) {
            throw UnsuitableInput::because('This shape is round about more than one axis, as a ball is, or too flat to tell; fit a sphere or a plane to it instead.');
        }
        $foot = Vector3::cross($a, $moment);
        $centre = [$middle[0] + $foot[0], $middle[1] + $foot[1], $middle[2] + $foot[2]];
        $squares = $sum = $most = 0.0;
        foreach ($use as $i => $w) {
            if ($w > 0.0) {
                $squares += $w * $e[$i] * $e[$i];
                $sum += $w;
                $most = max($most, abs($e[$i]));
            }
        }
        $points = count(array_filter($use, fn (float $w) => $w > 0.0));

        return ['share' => $share, 'datum' => self::line($q, $centre, $a, $name, sqrt($squares / ($sum ?: 1.0)), $most, $points)];
    }

    /**
     * The axis of a shape whose outline is round though its surface is not: a cone of scales, a knurled knob.
     *
     * @param  list<float>  $q
     * @param  list<float>  $n
     * @param  array{float, float, float}  $middle
     * @return array{datum: Datum, share: null}|null null when the outline is not round either
     */
    private static function outline(array $q, array $n, array $middle, float $size, string $name): ?array
    {
        $found = array_values(array_filter(
            OutlineAxis::candidates(SurfaceSamples::every($q, self::OUTLINED), SurfaceSamples::every($n, self::OUTLINED)),
            // About an axis far outside everything is round.
            fn (array $axis) => Vector3::length(Vector3::cross($axis['direction'], Vector3::minus($axis['origin'], $middle))) < self::INSIDE * $size,
        ));
        $rough = array_map(fn (array $axis) => $axis['rms'] / $axis['radius'], $found);
        if ($found === [] || $rough[0] > self::ROUGH || ($rough[1] ?? INF) < self::CLEARER * $rough[0]) {
            return null;
        }

        return ['share' => null, 'datum' => self::line($q, $found[0]['origin'], $found[0]['direction'], $name, $found[0]['rms'], $found[0]['max'], $found[0]['points'])];
    }

    /**
     * The datum of an axis, as long as the shape.
     *
     * @param  list<float>  $q
     * @param  array{float, float, float}  $through
     * @param  array{float, float, float}  $along
     */
    private static function line(array $q, array $through, array $along, string $name, float $rms, float $max, int $points): Datum
    {
        $low = INF;
        $high = -INF;
        for ($o = 0, $end = count($q); $o < $end; $o += 3) {
            $t = Vector3::dot($along, [$q[$o] - $through[0], $q[$o + 1] - $through[1], $q[$o + 2] - $through[2]]);
            $low = min($low, $t);
            $high = max($high, $t);
        }
        $t = 0.5 * ($low + $high);

        return new Datum($name, $name, 'line', [$through[0] + $t * $along[0], $through[1] + $t * $along[1], $through[2] + $t * $along[2]], $along, 0.0, 0.5 * ($high - $low), $rms, $max, $points, 'revolution');
    }
}
