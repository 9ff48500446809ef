<?php

declare(strict_types=1);

// The small pictures that the help on operations shows, before and after, each from the demo world: core/bin/php-jit core/bench/help-pictures.php FOLDER [OPERATION...]
// Written as NAME-before.png and NAME-after.png; the window shows them where they are there.
require __DIR__.'/lib.php';
require __DIR__.'/help-scene.php';

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Exchange\Png;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs;

/** @param  array<string, mixed>  $parameters */
function done(string $operation, Workpiece $on, array $parameters = []): Workpiece
{
    return Catalogue::operation($operation)($on, Catalogue::parameters($operation, $parameters), new NoProgress)->workpiece;
}

/**
 * A mesh whose coordinates are each moved at random, as noise does.
 *
 * @param  float  $mm  a coordinate moves by half of this at most
 */
function noisy(Workpiece $of, float $mm): Workpiece
{
    mt_srand(7);

    return $of->withBodies(array_map(fn (Body $body) => $body->reshaped($body->placedMesh()->withPositions(array_map(fn (float $v) => $v + $mm * (mt_rand() / mt_getrandmax() - 0.5), $body->placedMesh()->positions))), $of->bodies));
}

function spiked(Workpiece $of): Workpiece
{
    $mesh = $of->bodies[0]->placedMesh();
    $p = $mesh->positions;
    $middle = BoundingBox::of($p)->centre();
    // On the barrel, from which nothing else stands out.
    $barrel = array_values(array_filter(range(0, $mesh->vertexCount() - 1), fn (int $v) => $p[3 * $v + 2] > 60.0 && abs($p[3 * $v + 1] - 5.0) < 20.0));
    foreach (array_filter($barrel, fn (int $k) => $k % max(1, intdiv(count($barrel), 9)) === 4, ARRAY_FILTER_USE_KEY) as $v) {
        for ($c = 0; $c < 3; $c++) {
            $p[3 * $v + $c] += 0.18 * ($p[3 * $v + $c] - $middle[$c]);
        }
    }

    return $of->withBodies([$of->bodies[0]->reshaped($mesh->withPositions($p))]);
}

/**
 * Passes as they stand where nobody has put them together: each turned and shifted otherwise.
 *
 * @param  float  $degrees  and $mm: the second pass by once of them, the third by twice, and so on
 */
function apart(Workpiece $of, float $degrees, float $mm): Workpiece
{
    $thrown = array_map(fn (Pass $pass, int $k) => $pass->moved(RigidTransform::turn([0.3, -0.5 * $k, 1.0], deg2rad($degrees) * $k)->then(RigidTransform::shift($mm * $k, 0.4 * $mm * $k, -0.2 * $mm * $k))), $of->passes, array_keys($of->passes));

    return new Workpiece($thrown);
}

/** A part of the demo world as it truly is; coarser cells than its scans have keep the pictures quick. */
function exact(string $part, float $cell = 1.2): Body
{
    static $made = [];

    return $made["$part $cell"] ??= Body::of(ucfirst($part), Rigs\ExactSurface::of(Rigs\Catalogue::part($part), $cell));
}

function holding(Body ...$bodies): Workpiece
{
    return new Workpiece(bodies: array_values($bodies));
}

/** Things that take long, made once and only when a picture needs them. */
function scene(string $name): Workpiece
{
    static $made = [];
    $simulated = fn (string $rig, array $more = []) => done('simulate', new Workpiece, ['part' => 'pedestal', 'rig' => $rig, 'seed' => 3, 'density' => 60.0, ...$more]);

    return $made[$name] ??= match ($name) {
        'raw' => $simulated('handheld'),
        'one raw' => new Workpiece([scene('raw')->passes[0]]),
        'bare' => done('drop-base', scene('raw')),
        'one' => new Workpiece([scene('bare')->passes[0]]),
        'clean' => done('remove-strays', done('remove-outliers', scene('bare'))),
        'placed' => done('register', done('remove-outliers', scene('bare'))),
        'fresh' => new Workpiece([Pass::of('pass', PointCloud::fromFlat(scene('one')->passes[0]->placed()->positions))]),
        'two' => new Workpiece(array_slice(scene('placed')->passes, 0, 2)),
        'fused' => done('fuse', scene('placed'), ['voxel' => 1.2]),
        'alone' => new Workpiece(bodies: scene('fused')->bodies),
        'whole' => done('keep-pieces', scene('alone'), ['largest' => 1]),
        'closed' => done('fill-holes', scene('whole')),
        'light' => done('decimate', scene('closed'), ['faces' => 20000]),
        'rod' => done('simple-body', scene('light'), ['kind' => 'cylinder', 'axis' => ['point' => [45.0, -20.0, -5.0], 'direction' => [0.0, 0.0, 1.0]], 'diameter' => 22.0, 'height' => 40.0, 'name' => 'Rod']),
        'heads' => done('remove-outliers', $simulated('ring')),
        'target' => done('remove-outliers', $simulated('ring', ['part' => 'target', 'density' => 120.0])),
        'dots' => $simulated('ring', ['part' => 'target', 'dots' => true, 'dotSpacing' => 20.0, 'density' => 50.0]),
        'shapes' => done('find-shapes', holding(exact('pedestal'))),
    };
}

/** @return array<int, float> flat xyz of the points, in the project, of which a question is answered by yes */
function pointsWhere(Pass $pass, callable $is): array
{
    return array_merge(...array_filter(array_chunk($pass->placed()->positions, 3), $is));
}

/** @return list<int> of the kept points of a pass those of which a question on their place is answered by yes */
function indicesWhere(Pass $pass, callable $is): array
{
    return array_keys(array_filter(array_chunk($pass->allCloud()->positions, 3), $is));
}

/** @return list<int> faces whose middle answers a question by yes */
function facesWhere(TriangleMesh $mesh, callable $is): array
{
    $p = $mesh->positions;
    $middle = fn (array $f): array => array_map(fn (int $c) => ($p[3 * $f[0] + $c] + $p[3 * $f[1] + $c] + $p[3 * $f[2] + $c]) / 3.0, [0, 1, 2]);

    return array_keys(array_filter(array_chunk($mesh->faces, 3), fn (array $f) => $is($middle($f))));
}

/** A body without the faces whose middle answers a question by yes. */
function opened(Body $body, callable $is): Body
{
    $mesh = $body->placedMesh();
    $gone = array_flip(facesWhere($mesh, $is));

    return $body->reshaped($mesh->withFaces(array_values(array_filter(range(0, $mesh->faceCount() - 1), fn (int $t) => ! isset($gone[$t])))));
}

/**
 * A body with some faces in another colour.
 *
 * @param  list<int>  $faces
 * @return array{TriangleMesh, list<int>}
 */
function withMarked(Body $body, array $faces, int $tint = MARKED): array
{
    $tints = array_fill(0, $body->placedMesh()->faceCount(), -1);
    foreach ($faces as $t) {
        $tints[$t] = $tint;
    }

    return [$body->placedMesh(), $tints];
}

/** @return list<array{TriangleMesh, int}> */
function marks(array $places, float $radius = 2.0, int $tint = MARKED): array
{
    return array_map(fn (array $at) => [mark($at, $radius), $tint], $places);
}

/** @return list<array{TriangleMesh, int}> what was drawn of sections and outlines */
function drawn(Workpiece $of, float $radius = 0.8): array
{
    $things = [];
    foreach ($of->artefacts as $artefact) {
        foreach ($artefact->kind === SectionDrawing::KIND ? $artefact->data['planes'] : [] as $plane) {
            foreach ($plane['curves'] as $curve) {
                $points = array_chunk($curve['points'], 3);
                $things[] = [rod([...$points, ...($curve['closed'] ? [$points[0]] : [])], $radius), INK];
            }
        }
    }

    return $things;
}

/** @return array{TriangleMesh, list<int>} a body, each shape found on it in its colour */
function inShapes(Workpiece $of): array
{
    $labels = ShapeMap::ofArtefact($of->artefacts[0])->labels;

    return [$of->bodies[0]->placedMesh(), array_map(fn (int $label) => $label < 0 ? 0xB9B4AC : TINTS[$label % count(TINTS)], $labels)];
}

/** @return array<int, float> corners of a box around the origin, to frame pictures alike */
function cube(float $half): array
{
    return [-$half, -$half, -$half, $half, $half, $half, $half, -$half, -$half, -$half, $half, $half];
}

/** @return list<array{TriangleMesh, int}> a cube of 40 mm that stands beside a part, to see its size by */
function gauge(): array
{
    $block = done('simple-body', new Workpiece, ['kind' => 'box', 'axis' => ['point' => [95.0, -20.0, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'length' => 40.0, 'width' => 40.0, 'height' => 40.0]);

    return [[$block->bodies[0]->placedMesh(), 0x9A9A86]];
}

/** @return array{TriangleMesh, int} */
function plain(Body $body): array
{
    return [$body->placedMesh(), -1];
}

/**
 * Points coloured by a number of each: from calm to marked.
 *
 * @param  array<int, float>  $values  between 0 and 1
 */
function shadedPoints(Pass $pass, array $values): string
{
    $groups = [[], [], [], []];
    foreach (array_chunk($pass->placed()->positions, 3) as $i => $at) {
        array_push($groups[(int) min(3, 4 * $values[$i])], ...$at);
    }

    return pointsPicture(array_map(null, $groups, [0x7B97B8, 0xC9B15E, 0xD98A4B, MARKED]));
}

/** The faces of a shape that lie on one side of a line across it become a shape of their own. */
function halvedShape(Workpiece $of): Workpiece
{
    $body = $of->bodies[0];
    $half = facesWhere($body->placedMesh(), fn (array $at) => abs($at[2] - 14.0) < 0.01 && $at[0] > 35.0 && $at[1] < 0.0);
    $whole = ShapeMap::ofArtefact($of->artefacts[0]);
    $shape = $whole->entries[$whole->labels[$half[0]]]['id'];

    return done('split-shape', $of, ['shapes' => [$shape], 'selection' => [['target' => $body->name, 'indices' => $half]]]);
}

/** @return list<string> the two shapes that halvedShape() made of one */
function twoHalves(Workpiece $of): array
{
    $map = ShapeMap::ofArtefact($of->artefacts[0]);
    $label = fn (callable $is): string => $map->entries[$map->labels[facesWhere($of->bodies[0]->placedMesh(), $is)[0]]]['id'];

    return [$label(fn (array $at) => abs($at[2] - 14.0) < 0.01 && $at[0] > 40.0 && $at[1] < -5.0), $label(fn (array $at) => abs($at[2] - 14.0) < 0.01 && $at[0] > 25.0 && $at[0] < 33.0 && $at[1] < -20.0)];
}

/** A height map as the grey picture that it is handed over as, reduced to the size of these. */
function heightsPicture(Workpiece $of): string
{
    $data = $of->artefacts[0]->data;
    $values = array_values(unpack('v*', (string) base64_decode($data['sides'][0]['values'], true)) ?: []);
    $scale = 0.92 * min(COLUMNS / $data['columns'], ROWS / $data['rows']);
    $rgb = '';
    for ($r = 0; $r < ROWS; $r++) {
        for ($c = 0; $c < COLUMNS; $c++) {
            [$column, $row] = [(int) floor(($c - COLUMNS / 2) / $scale + $data['columns'] / 2), (int) floor(($r - ROWS / 2) / $scale + $data['rows'] / 2)];
            $outside = $column < 0 || $row < 0 || $column >= $data['columns'] || $row >= $data['rows'];
            $rgb .= str_repeat(chr($outside ? 255 : intdiv($values[$row * $data['columns'] + $column], 257)), 3);
        }
    }

    return Png::coloured($rgb, COLUMNS);
}

$folder = $argv[1] ?? exit("say the folder\n");
$wanted = array_slice($argv, 2);
$side = ['point' => [0.0, 5.0, 0.0], 'normal' => [0.0, 1.0, 0.0]];
$top = fn (array $at) => $at[2] > 60.0;
$tilted = exact('pedestal')->moved(RigidTransform::turn([0.4, 0.3, 0.2], 0.5)->then(RigidTransform::shift(25.0, -20.0, 20.0)));
$stand = fn (Workpiece $of, array $more = []) => surfacePicture([...array_map(plain(...), $of->bodies), ...axes(95.0), ...$more], cube(66.0));
$number = fn (array $at) => $at[1] < -34.5 && abs($at[0] - 1.0) < 13.0 && $at[2] > 1.5 && $at[2] < 12.5;
// A hole in the boss: wide enough to be closed in two parts or by a strip.
$torn = fn () => opened(exact('pedestal'), fn (array $at) => $at[1] < 5.0 && $at[1] > -22.0 && $at[2] > 45.0 && abs(hypot($at[0], $at[2] - 52.0) - 27.0) < 1.5 && $at[0] > 2.0);
$onBoss = fn (float $degrees, float $y): array => [27.0 * sin(deg2rad($degrees)), $y, 52.0 + 27.0 * cos(deg2rad($degrees))];
$damaged = function () {
    $body = opened(spiked(holding(exact('pedestal')))->bodies[0], fn (array $at) => hypot($at[0] - 40.0, $at[1] + 10.0) < 9.0 && $at[2] > 13.0);

    return $body->reshaped(TriangleMesh::joined([$body->placedMesh(), mark([62.0, -40.0, 45.0], 4.0), mark([75.0, -10.0, 30.0], 3.0)]));
};
$cases = [
    'simulate' => fn () => [picture(holding(exact('pedestal'))), picture(scene('bare'))],
    'set-unit' => fn () => [surfacePicture([plain(holding(exact('pedestal'))->scaled(1 / 25.4)->bodies[0]), ...gauge()], cube(60.0)), surfacePicture([plain(exact('pedestal')), ...gauge()], cube(60.0))],
    'cut-away' => fn () => [
        passesPicture(scene('fresh')->passes, pointsWhere(scene('fresh')->passes[0], $top)),
        picture(done('cut-away', scene('fresh'), ['selection' => [['target' => scene('fresh')->passes[0]->name, 'indices' => indicesWhere(scene('fresh')->passes[0], $top)]]])),
    ],
    'keep-only' => fn () => [
        passesPicture(scene('fresh')->passes, pointsWhere(scene('fresh')->passes[0], $top)),
        passesPicture(done('keep-only', scene('fresh'), ['selection' => [['target' => scene('fresh')->passes[0]->name, 'indices' => indicesWhere(scene('fresh')->passes[0], $top)]]])->passes, [], scene('fresh')->passes[0]->placed()->positions),
    ],
    'crop' => fn () => [picture(scene('one')), picture(done('crop', scene('one'), ['box' => ['centre' => [0.0, 0.0, 60.0], 'size' => [90.0, 100.0, 60.0]]]))],
    'drop-base' => fn () => [picture(scene('one raw')), picture(done('drop-base', scene('one raw')))],
    'noise-report' => function () {
        $kept = done('remove-outliers', scene('one'), ['deviations' => 1.0])->passes[0];
        $stay = array_flip(array_map(fn (array $at) => implode(',', $at), array_chunk($kept->placed()->positions, 3)));

        return [picture(scene('one')), passesPicture(scene('one')->passes, pointsWhere(scene('one')->passes[0], fn (array $at) => ! isset($stay[implode(',', $at)])))];
    },
    'remove-outliers' => fn () => [picture(scene('one')), picture(new Workpiece([scene('clean')->passes[0]]))],
    'remove-strays' => function () {
        // What flew past: some clumps of points beside the part.
        mt_srand(5);
        $flown = [];
        foreach ([[75.0, -30.0, 65.0], [-60.0, 0.0, 80.0], [75.0, -60.0, 40.0]] as $at) {
            for ($k = 0; $k < 12; $k++) {
                array_push($flown, ...array_map(fn (float $v) => $v + 8.0 * (mt_rand() / mt_getrandmax() - 0.5), $at));
            }
        }
        $pass = Pass::of('pass', PointCloud::fromFlat([...scene('one')->passes[0]->placed()->positions, ...$flown]));

        return [passesPicture([$pass], $flown), passesPicture(done('remove-strays', new Workpiece([$pass]), ['share' => 0.02])->passes, [], $pass->placed()->positions)];
    },
    'remove-grazing' => fn () => [picture(scene('one')), picture(done('remove-grazing', scene('one')))],
    'remove-unsure' => function () {
        // As sure as the points are near to the true surface.
        $cloud = scene('one')->passes[0]->placed();
        $sure = array_map(fn (array $at) => max(0.0, 1.0 - abs(Rigs\Catalogue::part('pedestal')->distance(...$at)) / 0.4), array_chunk($cloud->positions, 3));
        $pass = Pass::of('pass', PointCloud::fromFlat($cloud->positions, [], [], null, $sure));

        return [shadedPoints($pass, array_map(fn (float $v) => 1.0 - $v, $sure)), picture(done('remove-unsure', new Workpiece([$pass]), ['least' => 0.5]))];
    },
    'thin' => fn () => [picture(scene('one')), picture(done('thin', scene('one'), ['spacing' => 4.0]))],
    'copy' => fn () => [
        surfacePicture([plain(exact('cap'))], [-60.0, -20.0, 40.0, 110.0, 60.0, 95.0]),
        surfacePicture([plain(exact('cap')), [exact('cap')->moved(RigidTransform::shift(50.0, 40.0, 0.0))->placedMesh(), TINTS[2]]], [-60.0, -20.0, 40.0, 110.0, 60.0, 95.0]),
    ],
    'discard' => fn () => [surfacePicture([plain(scene('light')->bodies[0]), [scene('rod')->bodies[1]->placedMesh(), MARKED]]), picture(done('discard', scene('rod'), ['on' => ['Rod']]))],
    'register' => fn () => [picture(apart(scene('placed'), 1.5, 3.0)), picture(done('register', apart(scene('placed'), 1.5, 3.0), ['maxDistance' => 20.0]))],
    'match' => fn () => [picture(scene('heads')), picture(done('match', scene('heads')))],
    'match-markers' => function () {
        $dots = function (Workpiece $of): string {
            $white = [];
            foreach ($of->passes as $pass) {
                $cloud = $pass->placed();
                foreach (array_chunk($cloud->positions, 3) as $i => $at) {
                    if ((($cloud->colours[$i] ?? 0) >> 16) > 215) {
                        array_push($white, ...$at);
                    }
                }
            }

            return passesPicture($of->passes, $white);
        };

        return [$dots(scene('dots')), $dots(done('match-markers', scene('dots'), ['diameter' => 6.0]))];
    },
    'pair-points' => function () {
        $thrown = RigidTransform::turn([0.2, 0.4, 1.0], 0.7)->then(RigidTransform::shift(90.0, 20.0, 20.0));
        $passes = [scene('two')->passes[0], scene('two')->passes[1]->movedAlong($thrown)];
        $places = [[-60.0, -35.0, 14.0], [60.0, -35.0, 14.0], [0.0, -30.0, 79.0]];
        $pairs = array_map(fn (array $at) => ['from' => $thrown->point($at), 'to' => $at], $places);
        $spots = fn (array $at): array => array_merge(...array_map(fn (int $k) => [$at[0] + 2.5 * cos($k), $at[1] + 2.5 * sin($k), $at[2] + 1.5 * sin(3.0 * $k)], range(1, 40)));
        $within = [...$passes[0]->placed()->positions, ...$passes[1]->placed()->positions];

        return [
            passesPicture($passes, array_merge(...array_map(fn (array $pair) => [...$spots($pair['from']), ...$spots($pair['to'])], $pairs)), $within),
            passesPicture(done('pair-points', new Workpiece($passes), ['moving' => $passes[1]->name, 'pairs' => $pairs])->passes, [], $within),
        ];
    },
    'move' => function () {
        $passes = [scene('two')->passes[0], scene('two')->passes[1]->movedAlong(RigidTransform::shift(45.0, 0.0, 25.0))];
        $within = [...$passes[0]->placed()->positions, ...$passes[1]->placed()->positions];

        return [passesPicture($passes, [], $within), passesPicture(done('move', new Workpiece($passes), ['moving' => $passes[1]->name, 'shiftX' => -45.0, 'shiftZ' => -25.0])->passes, [], $within)];
    },
    'place' => function () {
        $away = RigidTransform::turn([0.3, 0.2, 1.0], 0.6)->then(RigidTransform::shift(70.0, -20.0, 50.0));
        $cap = exact('cap')->moved($away);
        $pairs = array_map(fn (array $at) => ['from' => $away->point($at), 'to' => $at], [[-30.0, -18.0, 52.0], [30.0, -18.0, 52.0], [0.0, 18.0, 79.0]]);
        $within = $cap->placedMesh()->positions;
        $both = fn (Workpiece $of) => surfacePicture([plain($of->bodies[0]), [$of->bodies[1]->placedMesh(), TINTS[2]]], $within);
        $apart = holding(exact('pedestal'), $cap);

        return [$both($apart), $both(done('place', $apart, ['moving' => 'Cap', 'onto' => 'Pedestal', 'start' => 'pairs', 'pairs' => $pairs, 'tighten' => false]))];
    },
    'solve-fixture' => fn () => [picture(scene('target')), picture(done('solve-fixture', scene('target')))],
    'apply-fixture' => function () {
        $catalogue = Catalogue::operation('solve-fixture')(scene('target'), Catalogue::parameters('solve-fixture', []), new NoProgress);
        $fixture = $catalogue->after['fixture'] ?? null;

        return [picture(scene('heads')), picture(done('apply-fixture', scene('heads'), ['fixture' => $fixture]))];
    },
    'fuse' => fn () => [picture(scene('placed')), picture(scene('alone'))],
    'rebuild' => fn () => [picture(scene('placed')), picture(new Workpiece(bodies: done('rebuild', scene('placed'), ['detail' => 2.0])->bodies))],
    'resolve-double-skin' => function () {
        $double = new Workpiece(array_map(fn (Pass $pass, int $k) => $k % 2 === 0 ? $pass : $pass->movedAlong(RigidTransform::shift(0.9, 0.0, 0.9)), scene('placed')->passes, array_keys(scene('placed')->passes)));
        // A thin slice through the edge of the base, from near: two layers become one.
        $slice = fn (Workpiece $of) => pointsPicture(array_map(fn (Pass $pass, int $k) => [pointsWhere($pass, fn (array $at) => abs($at[1] + 20.0) < 8.0 && $at[0] > 44.0 && $at[0] < 63.0 && $at[2] > 4.0 && $at[2] < 16.0), TINTS[$k % 2]], $of->passes, array_keys($of->passes)), [44.0, -20.0, 3.0, 63.0, -20.0, 16.5], [0.0, 1.0, -0.01]);

        return [$slice($double), $slice(done('resolve-double-skin', $double))];
    },
    'inspect' => function () use ($damaged) {
        $body = $damaged();
        $places = [];
        foreach (FaultPlaces::of($body->placedMesh(), []) as $family) {
            array_push($places, ...array_column($family['places'], 'centre'));
        }

        return [picture(holding($body)), surfacePicture([plain($body), ...marks($places, 3.5)])];
    },
    'repair' => fn () => [picture(holding($damaged())), surfacePicture(array_map(plain(...), done('repair', holding($damaged()))->bodies), $damaged()->placedMesh()->positions)],
    'fill-holes' => fn () => [picture(scene('whole')), picture(scene('closed'))],
    'fill-part' => fn () => [
        surfacePicture([plain($torn()), ...marks([$onBoss(25.0, -22.0), $onBoss(25.0, 5.0), $onBoss(5.0, -9.0)], 3.2)]),
        picture(done('fill-part', holding($torn()), ['points' => [$onBoss(40.0, -22.0), $onBoss(40.0, 5.0), $onBoss(5.0, -9.0)]])),
    ],
    'lay-strip' => fn () => [
        surfacePicture([plain($torn()), ...marks([$onBoss(35.0, -22.0), $onBoss(60.0, -22.0), $onBoss(60.0, 5.0), $onBoss(35.0, 5.0)], 3.2)]),
        picture(done('lay-strip', holding($torn()), ['points' => [$onBoss(35.0, -22.0), $onBoss(60.0, -22.0), $onBoss(60.0, 5.0), $onBoss(35.0, 5.0)]])),
    ],
    'keep-pieces' => function () {
        $crumbs = array_map(fn (array $at) => mark($at, 5.0), [[70.0, -30.0, 45.0], [-50.0, -45.0, 60.0], [60.0, -55.0, 20.0], [40.0, 0.0, 85.0]]);
        $body = Body::of('Pedestal', TriangleMesh::joined([exact('pedestal')->placedMesh(), ...$crumbs]));

        return [surfacePicture([withMarked($body, range(exact('pedestal')->placedMesh()->faceCount(), $body->placedMesh()->faceCount() - 1))]), surfacePicture(array_map(plain(...), done('keep-pieces', holding($body), ['largest' => 1])->bodies), $body->placedMesh()->positions)];
    },
    'despike' => fn () => [picture(spiked(scene('light'))), picture(done('despike', spiked(scene('light'))))],
    'smooth' => fn () => [picture(noisy(scene('closed'), 0.9)), picture(done('smooth', noisy(scene('closed'), 0.9)))],
    'reshape-patch' => function () use ($number) {
        $body = exact('pedestal', 0.7);
        $faces = facesWhere($body->placedMesh(), $number);
        $near = [-30.0, -36.0, 0.0, 30.0, -36.0, 30.0];
        $close = fn (array $thing) => surfacePicture([$thing], [], [-0.15, 0.95, -0.25]);

        return [$close(withMarked($body, $faces)), $close(plain(done('reshape-patch', holding($body), ['selection' => [['target' => 'Pedestal', 'indices' => $faces]]])->bodies[0]))];
    },
    'levels' => function () {
        $closed = scene('closed');
        $mesh = $closed->bodies[0]->placedMesh();
        $light = fn (int $faces): TriangleMesh => done('decimate', $closed, ['faces' => $faces])->bodies[0]->placedMesh();
        $apart = BoundingBox::of($mesh->positions)->longestSide() * 0.62;
        $beside = fn (TriangleMesh $one, float $by): TriangleMesh => $one->transformed(RigidTransform::shift($by, 0.0, 0.0));

        // One body, and the same at three counts of faces.
        return [picture($closed), surfacePicture([[$beside($mesh, -2.0 * $apart), TINTS[0]], [$beside($light(1500), 0.0), TINTS[0]], [$beside($light(300), 2.0 * $apart), TINTS[0]]])];
    },
    'decimate' => fn () => [picture(scene('closed')), picture(done('decimate', scene('closed'), ['faces' => 700]))],
    'remesh' => function () {
        $coarse = done('decimate', holding(exact('pedestal')), ['faces' => 1200]);
        $wired = fn (Workpiece $of) => surfacePicture([plain($of->bodies[0]), [wires($of->bodies[0]->placedMesh(), 0.22), INK]]);

        return [$wired($coarse), $wired(done('remesh', $coarse, ['edge' => 7.0]))];
    },
    'quad-remesh' => function () {
        $cap = holding(exact('cap'));
        $quads = done('quad-remesh', $cap, ['faces' => 1500])->bodies;
        $wired = fn (Body $body) => surfacePicture([plain($body), [wires($body->placedMesh(), 0.2), INK]]);

        return [$wired(done('decimate', $cap, ['faces' => 2500])->bodies[0]), $wired($quads[count($quads) - 1])];
    },
    'draw-quads' => function () use ($onBoss) {
        $points = $faces = [];
        foreach ([10.0, 25.0, 40.0, 55.0, 70.0] as $degrees) {
            foreach ([-24.0, -14.0, -4.0, 6.0, 16.0] as $y) {
                $points[] = $onBoss($degrees, $y);
            }
        }
        for ($k = 0; $k < 4; $k++) {
            for ($j = 0; $j < ($k === 3 ? 2 : 4); $j++) {
                $faces[] = [5 * $k + $j, 5 * $k + $j + 5, 5 * $k + $j + 6, 5 * $k + $j + 1];
            }
        }
        $made = done('draw-quads', holding(exact('pedestal')), ['points' => $points, 'faces' => $faces, 'onto' => 'Pedestal'])->bodies[1];

        return [picture(holding(exact('pedestal'))), surfacePicture([plain(exact('pedestal')), [wires($made->placedMesh(), 0.9), INK], ...marks($points, 1.6)])];
    },
    'find-shapes' => fn () => [picture(holding(exact('pedestal'))), surfacePicture([inShapes(scene('shapes'))])],
    'join-shapes' => function () {
        $split = halvedShape(scene('shapes'));

        return [surfacePicture([inShapes($split)]), surfacePicture([inShapes(done('join-shapes', $split, ['shapes' => twoHalves($split)]))])];
    },
    'split-shape' => fn () => [surfacePicture([inShapes(scene('shapes'))]), surfacePicture([inShapes(halvedShape(scene('shapes')))])],
    'add-datum' => function () {
        $with = done('add-datum', done('add-datum', holding(exact('pedestal')), ['name' => 'Top of base', 'kind' => 'plane', 'seed' => [45.0, -25.0, 14.0]]), ['name' => 'Bore', 'kind' => 'cylinder', 'seed' => [0.0, -10.0, 37.0]]);
        $things = [plain(exact('pedestal')), ...marks([[45.0, -25.0, 14.0], [0.0, -22.0, 38.0]], 3.0)];
        [$plane, $bore] = $with->datums;

        return [surfacePicture($things, [-70.0, -70.0, 0.0, 70.0, 60.0, 80.0]), surfacePicture([
            plain(exact('pedestal')),
            [plate([45.0, -20.0, $plane->origin[2] + 1.0], [22.0, 0.0, 0.0], [0.0, 24.0, 0.0]), TINTS[2]],
            [rod([Vector3::minus($bore->origin, Vector3::scaled($bore->direction, 65.0)), Vector3::plus($bore->origin, Vector3::scaled($bore->direction, 55.0))], 1.2), MARKED],
        ], [-70.0, -70.0, 0.0, 70.0, 60.0, 80.0])];
    },
    'set-frame' => function () use ($tilted, $stand) {
        $pose = $tilted->placement()->pose;
        $datums = [new Datum('base', 'Base', 'plane', $pose->point([0.0, 0.0, 0.0]), $pose->direction([0.0, 0.0, -1.0])), new Datum('bore', 'Bore', 'cylinder', $pose->point([0.0, 0.0, 52.0]), $pose->direction([0.0, 1.0, 0.0]), 15.0)];
        $before = new Workpiece(bodies: [$tilted], datums: $datums);

        return [$stand($before), $stand(done('set-frame', $before, ['first' => 'Base', 'firstAs' => '-z', 'second' => 'Bore', 'secondAs' => '+y']))];
    },
    'frame-from-points' => function () use ($tilted, $stand) {
        $pose = $tilted->placement()->pose;
        $points = array_map($pose->point(...), [[-60.0, -35.0, 14.0], [60.0, -35.0, 14.0], [-60.0, 35.0, 14.0]]);

        return [$stand(holding($tilted), marks($points, 3.0)), $stand(done('frame-from-points', holding($tilted), ['points' => $points]))];
    },
    'turn' => fn () => [$stand(holding(exact('pedestal'))), $stand(done('turn', holding(exact('pedestal')), ['axis' => 'z', 'angle' => 40.0]))],
    'shift' => fn () => [$stand(holding(exact('pedestal'))), $stand(done('shift', holding(exact('pedestal')), ['x' => 30.0, 'z' => -14.0]))],
    'centre' => function () use ($stand) {
        $off = holding(exact('pedestal')->moved(RigidTransform::shift(40.0, -30.0, 10.0)));

        return [$stand($off), $stand(done('centre', $off, ['axes' => false]))];
    },
    'scale' => fn () => [
        surfacePicture([plain(holding(exact('pedestal'))->scaled(0.6)->bodies[0]), ...gauge()], cube(60.0)),
        surfacePicture([plain(done('scale', holding(exact('pedestal'))->scaled(0.6), ['measured' => 72.0, 'actual' => 120.0])->bodies[0]), ...gauge()], cube(60.0)),
    ],
    'confirm-scale' => function () {
        $ends = [[-60.0, -35.0, 14.0], [60.0, -35.0, 14.0]];
        $lift = fn (array $at) => Vector3::plus($at, [0.0, -12.0, 0.0]);
        $within = [-60.0, -52.0, 0.0, 60.0, -52.0, 0.0];

        return [surfacePicture([plain(exact('pedestal'))], $within), surfacePicture([plain(exact('pedestal')), [arrow([0.0, -47.0, 14.0], $lift($ends[0]), 0.8), INK], [arrow([0.0, -47.0, 14.0], $lift($ends[1]), 0.8), INK], ...array_map(fn (array $at) => [rod([$at, $lift($lift($at))], 0.5), INK], $ends)], $within)];
    },
    'mirror' => fn () => [picture(scene('light')), picture(done('mirror', scene('light'), ['plane' => ['point' => [64.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]]]))],
    'deliver' => function () {
        $light = done('decimate', scene('closed'), ['faces' => 1500])->bodies[0];

        return [picture(scene('closed')), surfacePicture([plain($light), [wires($light->placedMesh(), 0.2), INK]])];
    },
    'measure' => function () {
        $with = done('measure', holding(exact('pedestal')), ['kind' => 'distance', 'of' => [[0.0, -30.0, 79.0], [45.0, -25.0, 14.0]]]);
        $ends = [[0.0, -30.0, 79.0], [45.0, -25.0, 14.0]];

        return [surfacePicture([plain(exact('pedestal')), ...marks($ends, 2.5)]), surfacePicture([plain($with->bodies[0]), ...marks($ends, 2.5), [rod(array_map(fn (array $at) => Vector3::plus($at, [0.6, -3.0, 1.0]), $ends), 0.9), INK]])];
    },
    'compare' => function () {
        $worn = exact('pedestal');
        $p = $worn->placedMesh()->positions;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            // Worn off on one side of the boss, a bulge on the base.
            $p[$o + 2] += 1.5 * exp(-(($p[$o] - 42.0) ** 2 + ($p[$o + 1] + 15.0) ** 2) / 150.0) * ($p[$o + 2] > 10.0 ? 1.0 : 0.0);
            $p[$o + 2] -= 2.0 * exp(-(($p[$o] - 5.0) ** 2 + ($p[$o + 1] + 10.0) ** 2) / 200.0) * ($p[$o + 2] > 70.0 ? 1.0 : 0.0);
        }
        $worn = Body::of('Worn', $worn->placedMesh()->withPositions($p));
        $result = Catalogue::operation('compare')(holding($worn, exact('pedestal')), Catalogue::parameters('compare', ['to' => 'Pedestal', 'on' => ['Worn']]), new NoProgress);
        $values = array_values(unpack('C*', $result->maps[0]->bytes) ?: []);
        $mesh = $worn->placedMesh();
        $tints = [];
        foreach (array_chunk($mesh->faces, 3) as $f) {
            $off = ($values[$f[0]] + $values[$f[1]] + $values[$f[2]]) / 3.0 / 255.0 - 0.5;
            $tints[] = $off > 0.0 ? (int) (200 + 40 * $off) << 16 | (int) (200 * (1.0 - 1.6 * $off)) << 8 | (int) (190 * (1.0 - 2.0 * $off)) : (int) (200 * (1.0 + 1.8 * $off)) << 16 | (int) (200 * (1.0 + 0.9 * $off)) << 8 | 200;
        }

        return [picture(holding($worn)), surfacePicture([[$mesh, $tints]])];
    },
    'section' => fn () => [
        surfacePicture([plain(exact('pedestal')), [plate([0.0, -5.0, 40.0], [70.0, 0.0, 0.0], [0.0, 0.0, 48.0]), TINTS[2]]]),
        surfacePicture(drawn(done('section', holding(exact('pedestal')), ['plane' => ['point' => [0.0, -5.0, 0.0], 'normal' => [0.0, 1.0, 0.0]], 'count' => 3, 'spacing' => 12.0]), 0.7), exact('pedestal')->placedMesh()->positions),
    ],
    'outline' => fn () => [
        surfacePicture([plain(exact('pedestal'))], [], [-0.25, 0.95, -0.2]),
        surfacePicture(drawn(done('outline', holding(exact('pedestal')), ['along' => ['point' => [0.0, 0.0, 0.0], 'direction' => [0.0, 1.0, 0.0]]]), 0.8), exact('pedestal')->placedMesh()->positions, [-0.25, 0.95, -0.2]),
    ],
    'height-map' => function () {
        $seen = done('height-map', holding(exact('pedestal')), ['along' => ['point' => [0.0, 0.0, 0.0], 'direction' => [0.0, 1.0, 0.0]], 'pixel' => 0.5]);

        return [surfacePicture([plain($seen->bodies[0])], [], [-0.25, 0.95, -0.2]), heightsPicture($seen)];
    },
    'split' => fn () => [picture(scene('light')), picture(done('split', scene('light'), ['plane' => $side, 'keep' => 'positive', 'cap' => true]))],
    'join' => function () {
        $halves = done('split', holding(exact('pedestal')), ['plane' => ['point' => [0.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]], 'keep' => 'both', 'cap' => false]);
        $joined = done('join', $halves);

        return [surfacePicture(array_map(fn (Body $body, int $k) => [$body->placedMesh(), TINTS[2 * $k + 1]], $halves->bodies, array_keys($halves->bodies))), picture($joined)];
    },
    'add-body' => fn () => [picture(scene('rod')), picture(done('add-body', scene('rod'), ['with' => 'Rod', 'on' => [scene('light')->bodies[0]->name]]), scene('light')->bodies[0]->name)],
    'take-away' => fn () => [picture(scene('rod')), picture(done('take-away', scene('rod'), ['with' => 'Rod', 'on' => [scene('light')->bodies[0]->name]]), scene('light')->bodies[0]->name)],
    'keep-common' => fn () => [picture(scene('rod')), picture(done('keep-common', scene('rod'), ['with' => 'Rod', 'on' => [scene('light')->bodies[0]->name]]), scene('light')->bodies[0]->name)],
    'clearance-cut' => function () {
        $block = done('simple-body', holding(exact('bush')), ['kind' => 'box', 'axis' => ['point' => [0.0, 10.0, 30.0], 'direction' => [0.0, 0.0, 1.0]], 'length' => 50.0, 'width' => 40.0, 'height' => 30.0, 'name' => 'Block']);
        $cut = done('clearance-cut', $block, ['around' => 'Bush', 'distance' => 3.0, 'on' => ['Block']]);
        $within = array_merge(...array_map(fn (Body $body) => $body->placedMesh()->positions, $block->bodies));

        return [surfacePicture([[$block->bodies[0]->placedMesh(), TINTS[2]], plain($block->bodies[1])], $within), surfacePicture([plain($cut->bodies[1])], $within)];
    },
    'open-hole' => fn () => [picture(scene('light')), picture(done('open-hole', scene('light'), ['axis' => ['point' => [45.0, 22.0, 20.0], 'direction' => [0.0, 0.0, -1.0]], 'diameter' => 14.0]))],
    'engrave' => fn () => [picture(scene('light')), picture(done('engrave', scene('light'), ['text' => 'B7', 'at' => ['point' => [-20.0, -35.0, 8.0], 'up' => [0.0, 0.0, 1.0]], 'height' => 11.0, 'depth' => 1.5]))],
    'repeat-around' => fn () => [
        surfacePicture([plain(exact('ratchet-wheel'))], [], [-0.2, 0.6, -0.9]),
        surfacePicture([plain(done('repeat-around', holding(exact('ratchet-wheel')), ['axis' => ['point' => [0.0, 0.0, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'count' => 16, 'from' => 45.0])->bodies[0])], [], [-0.2, 0.6, -0.9]),
    ],
    'thicken' => function () {
        $arch = opened(exact('cap'), fn (array $at) => abs(hypot($at[0], $at[2] - 52.0) - 34.0) > 0.3);
        $sheet = holding(...array_slice(done('split', holding($arch), ['plane' => ['point' => [0.0, 0.0, 64.0], 'normal' => [0.0, 0.0, 1.0]], 'keep' => 'positive', 'cap' => false])->bodies, 0, 1));

        return [picture($sheet), picture(done('thicken', $sheet, ['distance' => 3.0]))];
    },
    'simple-body' => fn () => [picture(scene('light')), picture(scene('rod'))],
];
foreach ($cases as $name => $pictures) {
    if ($wanted !== [] && ! in_array($name, $wanted, true)) {
        continue;
    }
    try {
        [$before, $after] = $pictures();
    } catch (Throwable $problem) {
        echo "$name: {$problem->getMessage()} ({$problem->getFile()}:{$problem->getLine()})\n";

        continue;
    }
    file_put_contents("$folder/$name-before.png", $before);
    file_put_contents("$folder/$name-after.png", $after);
    printf("%-18s %5.1f + %5.1f KB\n", $name, strlen($before) / 1000, strlen($after) / 1000);
}
