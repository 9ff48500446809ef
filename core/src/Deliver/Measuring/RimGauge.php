<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Fitting\CircleFit;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/**
 * A round opening from its rim: where a sheet ends, or the sharp edge at which a bore meets a face.
 *
 * Error     what the corners of the rim stray from the circle: taken for noise, as nothing tells it from form on so few places.
 */
final readonly class RimGauge
{
    /** How a datum says that it is a rim, and what is asked for in MeasureParameters::FITS. */
    public const MADE = 'rim';

    /** A rim is meant by a click within this share of the size of the body. */
    private const NEAR = 0.05;

    /** An edge is sharp where its faces bend by more than this: the cosine of 40 degrees. */
    private const SHARP = 0.766;

    /** Corners that make a round rim, at least. */
    private const FEWEST = 8;

    /** A rim is round where its corners stray from the circle by less than this share of its radius, rms. */
    private const ROUND = 0.1;

    /** @param  non-empty-list<array{float, float, float}>  $corners */
    private function __construct(public Datum $circle, private array $corners)
    {
    }

    /**
     * The rim that is nearest to a place.
     *
     * @param  array{float, float, float}  $at
     *
     * @throws UnsuitableInput when there is none, or it is not round
     */
    public static function at(TriangleMesh $mesh, array $at): self
    {
        $twins = Topology::twins($mesh->faces);
        $rims = [...Topology::rims($mesh->faces, $twins), ...self::creases($mesh, $twins)];
        $loops = BoundaryLoops::along($rims, $mesh->positions);
        $near = $loops->nearest($at);
        if ($near === null || $near['distance'] > self::NEAR * BoundingBox::of($mesh->positions)->diagonal()) {
            throw UnsuitableInput::because('There is no rim there: the surface does not end, and no sharp edge runs round. Where a scan has rounded it off, take the opening from its wall: fit a cylinder.');
        }
        $corners = array_map(fn (int $v) => [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], $rims[$near['rim']]);
        $fit = count($corners) < self::FEWEST ? null : CircleFit::of(array_merge(...$corners));
        if ($fit === null || $corners === [] || $fit['rms'] > self::ROUND * $fit['radius']) {
            throw UnsuitableInput::because('The rim there is not round: an opening is that of a round one.');
        }

        return new self(new Datum('', 'Rim', 'cylinder', $fit['origin'], $fit['direction'], $fit['radius'], $fit['size'], $fit['rms'], $fit['max'], count($corners), self::MADE), $corners);
    }

    /** The widest round thing that goes through about the middle of the rim, and the narrowest that holds it. */
    public function opening(): Measurement
    {
        $out = array_map($this->circle->outside(...), $this->corners);
        $inner = $this->circle->radius + min($out);
        $across = Vector3::scaled(Vector3::square($this->circle->direction)[0], $inner);

        return new Measurement(
            2.0 * $inner, 'mm', hypot(DatumGauge::diameter($this->circle)->deviation ?? 0.0, $this->circle->rms * SurfaceNoise::ofSpan([count($out)])), ['outer' => 2.0 * ($this->circle->radius + max($out))],
            line: [Vector3::minus($this->circle->origin, $across), Vector3::plus($this->circle->origin, $across)],
        );
    }

    /**
     * Closed rings of sharp edges that no other sharp edge branches off.
     *
     * @param  array<int, int>  $twins
     * @return list<list<int>> vertices
     */
    private static function creases(TriangleMesh $mesh, array $twins): array
    {
        $crosses = Measure::crosses($mesh->positions, $mesh->faces);
        $beside = [];
        foreach ($twins as $h => $twin) {
            if ($twin < $h) {
                continue;
            }
            [$s, $t] = [3 * intdiv($h, 3), 3 * intdiv($twin, 3)];
            [$one, $two] = [[$crosses[$s], $crosses[$s + 1], $crosses[$s + 2]], [$crosses[$t], $crosses[$t + 1], $crosses[$t + 2]]];
            if (Vector3::dot($one, $two) < self::SHARP * Vector3::length($one) * Vector3::length($two)) {
                [$a, $b] = [$mesh->faces[$h], $mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]];
                $beside[$a][] = $b;
                $beside[$b][] = $a;
            }
        }
        $rings = $seen = [];
        foreach (array_keys($beside) as $start) {
            $ring = [];
            for ($at = $start; ! isset($seen[$at]) && count($beside[$at]) === 2; $at = isset($seen[$beside[$at][0]]) ? $beside[$at][1] : $beside[$at][0]) {
                $seen[$at] = true;
                $ring[] = $at;
            }
            if ($ring !== [] && in_array($start, $beside[$ring[count($ring) - 1]], true) && count($ring) > 2) {
                $rings[] = $ring;
            }
        }

        return $rings;
    }
}
