<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Algorithms\Cutting\PlaneCut;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Lighten\Shapes\FindShapes;
use Emberstone\Core\Lighten\Shapes\FindShapesParameters;
use Emberstone\Core\Lighten\Shapes\SplitShape;
use Emberstone\Core\Lighten\Shapes\SplitShapeParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/** For every operation of the catalogue something small to try it on, and parameters that go with it. */
final class OperationExamples
{
    /** Parameters with which each operation can be carried out on workpiece(). */
    public const PARAMETERS = [
        'set-unit' => ['unit' => 'in', 'was' => 'mm'],
        'drop-base' => [],
        'remove-outliers' => [],
        'cut-away' => ['selection' => [['target' => 'pass 0', 'indices' => [0, 1, 2]]]],
        'keep-only' => ['selection' => [['target' => 'pass 0', 'indices' => [0, 1, 2]]]],
        'simulate' => ['part' => 'bush', 'rig' => 'ring', 'surface' => 'dark', 'dots' => true, 'density' => 10.0],
        'crop' => ['box' => ['centre' => [0.0, 0.0, 0.0], 'size' => [20.0, 20.0, 20.0], 'turn' => [10.0, 0.0, 0.0]]],
        'noise-report' => [],
        'remove-strays' => [],
        'remove-grazing' => [],
        'thin' => ['spacing' => 2.0],
        'remove-unsure' => ['least' => 0.25],
        'copy' => ['on' => ['pass 0']],
        'discard' => ['on' => ['Base']],
        'register' => ['maxDistance' => 3.0],
        'pair-points' => ['moving' => 'pass 1', 'pairs' => [
            ['from' => [0.0, 0.0, 0.0], 'to' => [1.0, 0.0, 0.0]], ['from' => [20.0, 0.0, 0.0], 'to' => [21.0, 0.0, 0.0]], ['from' => [0.0, 15.0, 5.0], 'to' => [1.0, 15.0, 5.0]],
        ]],
        'match' => [],
        'match-markers' => ['diameter' => 3.0],
        'move' => ['moving' => 'pass 0', 'shiftX' => 1.0, 'turnZ' => 10.0],
        'place' => ['moving' => 'ball', 'onto' => 'pass 0', 'start' => 'pairs', 'tighten' => false, 'pairs' => [
            ['from' => [0.0, 0.0, 0.0], 'to' => [1.0, 0.0, 0.0]], ['from' => [20.0, 0.0, 0.0], 'to' => [21.0, 0.0, 0.0]], ['from' => [0.0, 15.0, 5.0], 'to' => [1.0, 15.0, 5.0]],
        ]],
        'solve-fixture' => ['diameter' => 12.0, 'balls' => ScanBuilder::BALLS],
        'apply-fixture' => ['fixture' => ['fixture' => 1, 'heads' => [['name' => 'a', 'transform' => [1, 0, 0, 5, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]]]]],
        'resolve-double-skin' => [],
        'fuse' => ['voxel' => 1.5],
        'rebuild' => ['detail' => 2.0],
        'repair' => [],
        'inspect' => [],
        'fill-holes' => [],
        'fill-part' => ['points' => [[4.3, 0.0, 9.0], [-4.3, 0.0, 9.0], [0.0, 4.3, 9.0]]],
        'lay-strip' => ['points' => [[4.0, 1.5, 9.0], [4.0, -1.5, 9.0], [-4.0, -1.5, 9.0], [-4.0, 1.5, 9.0]]],
        'despike' => [],
        'reshape-patch' => ['selection' => [['target' => 'ball', 'ranges' => [[200, 215]]]]],
        'keep-pieces' => ['largest' => 1],
        'smooth' => [],
        'decimate' => ['ratio' => 0.5],
        'levels' => [],
        'remesh' => ['edge' => 2.0],
        'quad-remesh' => ['edge' => 2.0],
        'draw-quads' => ['onto' => 'ball', 'points' => [[9.0, 3.0, -3.0], [9.0, -3.0, -3.0], [9.0, -3.0, 3.0], [9.0, 3.0, 3.0], [6.0, 3.0, 7.0]], 'faces' => [[0, 1, 2, 3], [3, 2, 4]]],
        'find-shapes' => [],
        'join-shapes' => ['shapes' => ['shape-1', 'shape-7']],
        'split-shape' => ['shapes' => ['shape-1'], 'selection' => [['target' => 'brick', 'ranges' => [[288, 323], [360, 395]]]]],
        'section' => ['plane' => ['point' => [0.0, 0.0, 1.0], 'normal' => [0.1, 0.2, 1.0]], 'count' => 3, 'spacing' => 1.5, 'fit' => 0.05],
        'outline' => ['along' => ['point' => [0.0, 0.0, 0.0], 'direction' => [0.1, 0.2, 1.0]], 'from' => -4.0, 'to' => 6.0, 'fit' => 0.05],
        'height-map' => ['along' => ['point' => [0.0, 0.0, 0.0], 'direction' => [0.1, 0.2, 1.0]], 'pixel' => 0.5, 'side' => 'both'],
        'compare' => ['tolerance' => 0.2],
        'split' => ['plane' => ['point' => [0.0, 0.0, 1.0], 'normal' => [0.1, 0.2, 1.0]]],
        'join' => ['stitch' => 0.01],
        'add-body' => ['with' => 'brick'],
        'take-away' => ['with' => 'brick'],
        'keep-common' => ['with' => 'brick'],
        'clearance-cut' => ['around' => 'brick', 'distance' => 2.0],
        'open-hole' => ['axis' => ['point' => [1.0, 2.0, 3.0], 'direction' => [0.1, 0.2, 1.0]], 'diameter' => 4.0, 'depth' => 6.0, 'countersink' => 6.0],
        'engrave' => ['text' => 'B7', 'at' => ['point' => [2.0, 3.0, 9.0], 'up' => [0.1, 1.0, 0.0]], 'height' => 3.0, 'depth' => 0.4, 'wrap' => true],
        'thicken' => ['distance' => 4.0, 'side' => 'out'],
        'deliver' => ['formats' => ['stl', 'obj'], 'for' => 'Kelter Mill'],
        'repeat-around' => ['axis' => ['point' => [1.0, 2.0, 3.0], 'direction' => [0.1, 0.2, 1.0]], 'count' => 6, 'from' => 11.0, 'blend' => 0.7],
        'measure' => ['of' => ['Base', 'Top'], 'nominal' => 9.0, 'plus' => 0.5, 'minus' => 0.5],
        'simple-body' => ['kind' => 'tube', 'axis' => ['point' => [1.0, 2.0, 3.0], 'direction' => [0.1, 0.2, 1.0]]],
        'add-datum' => ['name' => 'Top', 'kind' => 'plane', 'points' => [[0.0, 0.0, 1.0], [5.0, 0.0, 1.0], [0.0, 5.0, 1.0]]],
        'set-frame' => ['first' => 'Base'],
        'frame-from-points' => ['points' => [[1.0, 2.0, 3.0], [9.0, 2.0, 3.0], [4.0, 8.0, 3.0]]],
        'turn' => ['angle' => 30.0],
        'shift' => ['z' => 2.5],
        'centre' => [],
        'scale' => ['factor' => 1.5],
        'confirm-scale' => ['lengths' => [['from' => [0.0, 0.0, 0.0], 'to' => [10.0, 0.0, 0.0], 'actual' => 10.01]]],
        'mirror' => ['plane' => 'Base'],
    ];

    /** @return array{TriangleMesh, TriangleMesh} what lies below z = 0.3 and above, cut along it */
    private static function halves(TriangleMesh $mesh): array
    {
        $cut = PlaneCut::of($mesh->positions, $mesh->faces, [0.0, 0.0, 0.3], [0.0, 0.0, 1.0]);
        $part = fn (int $side): TriangleMesh => TriangleMesh::fromFlat($cut->positions, $cut->faces[$side])->withFaces(range(0, count($cut->source[$side]) - 1));

        return [$part(0), $part(1)];
    }

    /** What an operation is tried on: some need what only special captures show. */
    public static function workpiece(string $name = ''): Workpiece
    {
        if ($name === 'solve-fixture') {
            return new Workpiece(ScanBuilder::ballsFromTwoSides(6.0));
        }
        if ($name === 'despike') {
            $ball = MeshBuilder::icosphere(3, 10.0);
            $p = $ball->positions;
            $p[0] *= 1.4;

            return new Workpiece(bodies: [Body::of('ball', $ball->withPositions($p))]);
        }
        if ($name === 'join') {
            [$lower, $upper] = self::halves(MeshBuilder::ring(14.0, 5.0, 24, 12));

            return new Workpiece(bodies: [Body::of('lower', $lower), Body::of('upper', $upper)], datums: [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0], bodyId: 'lower')]);
        }
        if (in_array($name, ['add-body', 'take-away', 'keep-common', 'clearance-cut', 'open-hole', 'engrave'], true)) {
            $brick = MeshBuilder::brick([13.0, 9.0, 7.0], 3)->transformed(RigidTransform::turn([0.3, 0.5, -0.8], 1.1));

            return new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(3, 10.0)), ...(in_array($name, ['open-hole', 'engrave'], true) ? [] : [Body::of('brick', $brick)])], datums: [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0], bodyId: 'ball')]);
        }
        if ($name === 'repeat-around') {
            $ring = MeshBuilder::ring(14.0, 5.0, 48, 12)->transformed(RigidTransform::turn([0.2, -0.1, 0.0], 0.22)->then(RigidTransform::shift(1.0, 2.0, 3.0)));

            return new Workpiece(bodies: [Body::of('ring', $ring)], datums: [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0], bodyId: 'ring')]);
        }
        if ($name === 'thicken') {
            return new Workpiece(bodies: [Body::of('cup', MeshBuilder::without(MeshBuilder::icosphere(3, 8.0), 2.0))], datums: [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0], bodyId: 'cup')]);
        }
        if ($name === 'measure') {
            $ball = Body::of('ball', MeshBuilder::icosphere(3, 10.0));

            return new Workpiece(bodies: [$ball], datums: [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0]), new Datum('top', 'Top', 'plane', [1.0, 0.0, 8.0], [0.0, 0.0, 1.0])]);
        }
        if (in_array($name, ['find-shapes', 'join-shapes', 'split-shape'], true)) {
            $brick = MeshBuilder::brick([13.0, 9.0, 7.0], 6)->transformed(RigidTransform::turn([0.3, 0.5, -0.8], 1.1));
            $workpiece = new Workpiece(bodies: [Body::of('brick', $brick)]);
            $found = $name === 'find-shapes' ? $workpiece : (new FindShapes)($workpiece, new FindShapesParameters, new NoProgress)->workpiece;
            $half = ['shapes' => ['shape-1'], 'selection' => [['target' => 'brick', 'ranges' => [[288, 323], [360, 395]]]]];

            return $name === 'join-shapes' ? (new SplitShape)($found, new SplitShapeParameters(...$half), new NoProgress)->workpiece : $found;
        }
        if ($name === 'match-markers') {
            return new Workpiece(ScanBuilder::dottedPlates(1.5));
        }
        $sure = function (Pass $pass): Pass {
            $cloud = $pass->cloud();

            return Pass::of($pass->name, PointCloud::fromFlat($cloud->positions, $cloud->normals, $cloud->colours, $cloud->sensorOrigin, array_map(fn (int $i) => $i / $cloud->count(), range(0, $cloud->count() - 1))));
        };

        return new Workpiece(
            // Registering and fusing need points enough to settle; all else is tried on fewer.
            array_map($sure, ScanBuilder::passes(3, in_array($name, ['register', 'fuse'], true) ? 30 : 20, 0.02, 3, plate: true)),
            [Body::of('ball', MeshBuilder::together(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 9.0), MeshBuilder::icosphere(1, 2.0)))],
            [new Datum('base', 'Base', 'plane', [0.0, 0.0, -1.0], [0.0, 0.0, -1.0])],
        );
    }
}
