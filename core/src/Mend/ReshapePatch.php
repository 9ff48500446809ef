<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Mend\Kernel\Intersections;
use Emberstone\Core\Mesh\Kernel\Measure;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\FitDatum;
use Emberstone\Core\Spatial\KdTree;

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
    public static function about(): About
    {
        return new About('reshape-patch', Stage::Mend, 'Reshape patch', 'Replaces the selected area by a smooth cover, or by the shape that fits it.', 'meshes', ReshapePatchParameters::class);
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
            $open = Recut::apart($mesh->withFaces($keep));
            $progress->advance('covering', 0.3);
            $whole = Recut::filledAnew($open, $mesh);
            $first = $open->faceCount();
            if ($whole->faceCount() === $first) {
                throw UnsuitableInput::because('The area reaches along an open rim, so that nothing closes around it; fill that hole first, or select less.');
            }
            $progress->advance('covering', 0.7);
            $p = $fit === null ? $whole->positions : self::onto($whole, $first, $fit, $parameters->blend ?? 2.0 * self::meanEdge($mesh, $area));
            $origin = [];
            for ($t = 0, $n = $whole->faceCount(); $t < $n; $t++) {
                $origin[] = $t < $first ? $whole->origin[$t] ?? TriangleMesh::MEASURED : TriangleMesh::RESHAPED;
            }
            $crossings += intdiv(count(Intersections::pairs($p, $whole->faces, range($first, $n - 1))), 2);
            $progress->advance('covering', 1.0);
            $gone += count($area);
            $new += $n - $first;
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
     * @param  int  $first  the first new face
     * @return list<float>
     */
    private static function onto(TriangleMesh $mesh, int $first, Datum $shape, float $blend): array
    {
        $p = $mesh->positions;
        $old = array_flip(array_slice($mesh->faces, 0, 3 * $first));
        $rim = $new = [];
        foreach (array_unique(array_slice($mesh->faces, 3 * $first)) as $v) {
            isset($old[$v]) ? array_push($rim, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]) : $new[] = $v;
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
