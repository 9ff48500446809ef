<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\CutAndRefill;
use Emberstone\Core\Rims\PatchShape;
use Emberstone\Core\Rims\RimsHeld;

/**
 * Replaces a selected area: a boss taken off, a dent closed over, a dome that came out rough made round.
 *
 * Source    the area goes and its rim is spanned anew (RimFiller, tangent); for a shape the new vertices then move onto the one that fits
 *           the area (Orient/FitDatum), less and less towards the rim (smoothstep over the blend).
 * Keeps     all faces outside the area; the new ones are marked as reshaped.
 *
 * @implements Operation<ReshapePatchParameters>
 */
final class ReshapePatch implements Operation
{
    /** Added to the marks of what was made up before, to tell it from what is made now. */
    private const BEFORE = 100;

    /** How often the cover is cut free where it passes through other surface. */
    private const RECUTS = 3;

    /** A piece with less than this share of the area's faces, left standing inside of it, goes with it. */
    private const CRUMB = 0.25;

    public static function about(): About
    {
        return new About('reshape-patch', Stage::Mend, 'Reshape patch', 'Replaces the selected area by a smooth cover, or by the shape that fits it.', 'meshes', ReshapePatchParameters::class, avoid: 'Not where the surface was seen well: it replaces what was measured.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + 4e-6 * $workpiece->faceCount(), 60 + 5e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $gone = $new = $crossings = 0;
        $notes = [];
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$gone, &$new, &$crossings, &$notes): TriangleMesh {
            $marks = $parameters->marks($body->id, $mesh->faceCount());
            if ($marks === null || ! str_contains($marks, "\1")) {
                return $mesh;
            }
            $keep = $area = [];
            for ($t = 0, $n = strlen($marks); $t < $n; $t++) {
                $marks[$t] === "\1" ? $area[] = $t : $keep[] = $t;
            }
            if ($keep === []) {
                throw UnsuitableInput::because("All of {$body->name} is selected; leave something around the area for the new surface to join.");
            }
            $fit = $parameters->shape === 'cover' ? null : self::fitted($mesh, $area, $parameters->shape);
            $progress->advance('covering', 0.2);
            $whole = self::covered($mesh, self::withoutCrumbs($mesh, $keep, $area), $progress);
            $fresh = array_keys($whole->origin, TriangleMesh::FILLED, true);
            if ($fresh === []) {
                throw UnsuitableInput::because('The area reaches along an open rim, so that nothing closes around it; fill that hole first, or select less.');
            }
            $p = $fit === null ? $whole->positions : self::onto($whole, $fresh, $fit, $parameters->blend ?? 2.0 * self::meanEdge($mesh, $area));
            $origin = array_map(fn (int $mark) => $mark >= self::BEFORE ? $mark - self::BEFORE : ($mark === TriangleMesh::FILLED ? TriangleMesh::RESHAPED : $mark), $whole->origin);
            $crossings += intdiv(count(Intersections::pairs($p, $whole->faces, $fresh)), 2);
            $progress->advance('covering', 1.0);
            $gone += count($area);
            $new += count($fresh);
            if ($fit !== null) {
                $notes[] = self::words($fit);
            }

            return TriangleMesh::fromFlat($p, $whole->faces, $whole->support, $origin);
        }, $progress);
        if ($gone === 0) {
            throw UnsuitableInput::because('Nothing of a mesh is selected; outline or brush the area first.');
        }
        if ($crossings > 0) {
            $notes[] = "$crossings pairs of faces pass through each other there: undo and select a little more, or repair.";
        }

        return new Result($after, Format::count($gone).' → '.Format::count($new).' faces', ['faces' => $gone], ['faces' => $new], $notes, $crossings === 0 ? Outcome::Reached : Outcome::StoppedEarly);
    }

    /**
     * The faces that stay without the crumbs that an outline left standing.
     *
     * @param  list<int>  $keep
     * @param  list<int>  $area
     * @return list<int>
     */
    private static function withoutCrumbs(TriangleMesh $mesh, array $keep, array $area): array
    {
        $gone = [];
        foreach ($area as $t) {
            $gone[$mesh->faces[3 * $t]] = $gone[$mesh->faces[3 * $t + 1]] = $gone[$mesh->faces[3 * $t + 2]] = true;
        }
        $faces = [];
        foreach ($keep as $t) {
            array_push($faces, $mesh->faces[3 * $t], $mesh->faces[3 * $t + 1], $mesh->faces[3 * $t + 2]);
        }
        $pieces = Topology::pieces(Topology::twins($faces))['of'];
        $sizes = array_count_values($pieces);
        $touched = [];
        foreach ($faces as $h => $v) {
            if (isset($gone[$v])) {
                $touched[$pieces[intdiv($h, 3)]] = true;
            }
        }

        return array_values(array_filter($keep, fn (int $k) => ! isset($touched[$pieces[$k]]) || $sizes[$pieces[$k]] >= self::CRUMB * count($area), ARRAY_FILTER_USE_KEY));
    }

    /**
     * The faces that stay with the opening spanned anew; what is new is marked as filled, what was made up before by its mark and BEFORE.
     *
     * @param  list<int>  $keep
     */
    private static function covered(TriangleMesh $mesh, array $keep, Progress $progress): TriangleMesh
    {
        $marks = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : array_map(fn (int $mark) => $mark === TriangleMesh::MEASURED ? $mark : $mark + self::BEFORE, $mesh->origin);
        $before = TriangleMesh::fromFlat($mesh->positions, $mesh->faces, $mesh->support, $marks);
        $held = RimsHeld::covered($before, $keep, new PatchShape);
        $whole = CutAndRefill::filledAnew($held->withFaces(range(0, $held->faceCount() - 1)), $before);
        for ($round = 0; $round < self::RECUTS; $round++) {
            $progress->advance('covering', 0.4 + 0.5 * $round / self::RECUTS);
            $freed = CutAndRefill::withoutCrossingsOfPatches($whole, new PatchShape);
            if ($freed === null) {
                break;
            }
            $whole = $freed;
        }

        return $whole;
    }

    /**
     * The shape that fits the area, found from the middles of its faces.
     *
     * @param  list<int>  $area
     *
     * @throws UnsuitableInput when it is no such shape
     */
    private static function fitted(TriangleMesh $mesh, array $area, string $shape): Datum
    {
        if (count($area) < 8) {
            throw UnsuitableInput::because('The area has only '.count($area).' faces; a shape needs eight at least. Select more, or cover it.');
        }
        $faces = [];
        foreach ($area as $t) {
            array_push($faces, $mesh->faces[3 * $t], $mesh->faces[3 * $t + 1], $mesh->faces[3 * $t + 2]);
        }
        $crosses = Measure::crosses($mesh->positions, $faces);
        $points = $normals = $weights = [];
        foreach ($area as $k => $t) {
            $l = sqrt($crosses[3 * $k] ** 2 + $crosses[3 * $k + 1] ** 2 + $crosses[3 * $k + 2] ** 2);
            if ($l <= 0.0) {
                continue;
            }
            $weights[] = $l;
            for ($c = 0; $c < 3; $c++) {
                $points[] = ($mesh->positions[3 * $faces[3 * $k] + $c] + $mesh->positions[3 * $faces[3 * $k + 1] + $c] + $mesh->positions[3 * $faces[3 * $k + 2] + $c]) / 3.0;
                $normals[] = $crosses[3 * $k + $c] / $l;
            }
        }

        return FitDatum::fitted($shape, $points, $normals, $weights, count($area), $shape, 'area');
    }

    /**
     * The positions with the new vertices on the shape.
     *
     * @param  list<int>  $fresh  the new faces
     * @return list<float>
     */
    private static function onto(TriangleMesh $mesh, array $fresh, Datum $shape, float $blend): array
    {
        $p = $mesh->positions;
        $isFresh = array_fill_keys($fresh, true);
        $of = [];
        foreach ($mesh->faces as $h => $v) {
            // Corners of new faces only: 1; of others only: 2; of both: 3.
            $of[$v] = ($of[$v] ?? 0) | (isset($isFresh[intdiv($h, 3)]) ? 1 : 2);
        }
        $new = array_keys($of, 1, true);
        $rim = [];
        foreach (array_keys($of, 3, true) as $v) {
            array_push($rim, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
        }
        $queries = [];
        foreach ($new as $v) {
            array_push($queries, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
        }
        $nearest = $distanceSq = [];
        KdTree::of($rim)->nearest($queries, INF, $nearest, $distanceSq);
        foreach ($new as $k => $v) {
            $t = $blend > 0.0 ? min(1.0, sqrt($distanceSq[$k]) / $blend) : 1.0;
            $w = $t * $t * (3.0 - 2.0 * $t);
            $on = $shape->nearest([$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]]);
            for ($c = 0; $c < 3; $c++) {
                $p[3 * $v + $c] += $w * ($on[$c] - $p[3 * $v + $c]);
            }
        }

        return $p;
    }

    /** @param  list<int>  $area */
    private static function meanEdge(TriangleMesh $mesh, array $area): float
    {
        $sum = 0.0;
        foreach ($area as $t) {
            $sum += array_sum(Measure::areas($mesh->positions, array_slice($mesh->faces, 3 * $t, 3)));
        }

        // The edge of an even triangle of the mean area.
        return sqrt($sum / count($area) * 4.0 / sqrt(3.0));
    }

    private static function words(Datum $fit): string
    {
        $size = match ($fit->kind) {
            'cylinder', 'sphere' => ' of ø '.Format::mm(2.0 * $fit->radius),
            'cone' => sprintf(' of %.2f degrees to its axis', $fit->halfAngleDeg),
            default => '',
        };

        return "The $fit->kind$size lies ".Format::mm($fit->rms).' RMS off what was there.';
    }
}
