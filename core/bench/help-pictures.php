<?php

declare(strict_types=1);

// The small pictures that the help on operations shows, before and after, each from the demo world: core/bin/php-jit core/bench/help-pictures.php FOLDER [OPERATION...]
// Written as NAME-before.png and NAME-after.png; the window shows them where they are there.
require __DIR__.'/lib.php';

use Emberstone\Core\Deliver\Handover\PartPicture;
use Emberstone\Core\Exchange\Png;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;

/** Size of a picture, pixels. */
const COLUMNS = 144;
const ROWS = 108;

/** Colours of passes, as the window has them. */
const TINTS = [0xC98B5E, 0x8AA777, 0x7B97B8, 0xA98BB8, 0xC9B15E, 0x77A7A0, 0xB87B8A, 0x9A9A86];

/** A drawn point covers its pixel and this many to the right and below. */
const POINT = 1;

/** A pixel that lies farther behind a neighbour than this share of the picture's size is darkened: it draws the outline between near and far. */
const BEHIND = 0.02;

/** @param  array<string, mixed>  $parameters */
function done(string $operation, Workpiece $on, array $parameters = []): Workpiece
{
    return Catalogue::operation($operation)($on, Catalogue::parameters($operation, $parameters), new NoProgress)->workpiece;
}

/** Where it is looked from: the right front, from above. @return array{array{float, float, float}, array{float, float, float}} the way it is looked, and up */
function eye(): array
{
    return [Vector3::unit([-0.55, 0.7, -0.5]), [0.0, 0.0, 1.0]];
}

/**
 * Points of passes, each pass in its colour.
 *
 * @param  list<Pass>  $passes
 */
function cloudPicture(array $passes): string
{
    [$along, $up] = eye();
    $up = Vector3::unit(Vector3::minus($up, Vector3::scaled($along, Vector3::dot($up, $along))));
    $right = Vector3::cross($along, $up);
    $seen = [];
    $box = [INF, INF, -INF, -INF];
    foreach ($passes as $k => $pass) {
        foreach (array_chunk($pass->placed()->positions, 3) as $at) {
            [$x, $y] = [Vector3::dot($at, $right), -Vector3::dot($at, $up)];
            $seen[] = [$x, $y, Vector3::dot($at, $along), TINTS[$k % count(TINTS)]];
            $box = [min($box[0], $x), min($box[1], $y), max($box[2], $x), max($box[3], $y)];
        }
    }
    $scale = 0.92 / max(($box[2] - $box[0]) / COLUMNS, ($box[3] - $box[1]) / ROWS);
    $far = array_fill(0, COLUMNS * ROWS, INF);
    $colours = array_fill(0, COLUMNS * ROWS, 0xFFFFFF);
    foreach ($seen as [$x, $y, $depth, $tint]) {
        $column = (int) round(COLUMNS / 2 + $scale * ($x - 0.5 * ($box[0] + $box[2])));
        $row = (int) round(ROWS / 2 + $scale * ($y - 0.5 * ($box[1] + $box[3])));
        for ($r = max(0, $row); $r <= min(ROWS - 1, $row + POINT); $r++) {
            for ($c = max(0, $column); $c <= min(COLUMNS - 1, $column + POINT); $c++) {
                if ($depth < $far[$r * COLUMNS + $c]) {
                    $far[$r * COLUMNS + $c] = $depth;
                    $colours[$r * COLUMNS + $c] = $tint;
                }
            }
        }
    }
    $step = BEHIND * (($box[2] - $box[0]) + ($box[3] - $box[1]));
    $rgb = '';
    foreach ($colours as $i => $colour) {
        $near = min($far[$i - 1] ?? INF, $far[$i + 1] ?? INF, $far[$i - COLUMNS] ?? INF, $far[$i + COLUMNS] ?? INF);
        $shade = is_finite($far[$i]) && $step < $far[$i] - $near ? 0.55 : 1.0;
        $rgb .= pack('C3', (int) ($shade * ($colour >> 16 & 255)), (int) ($shade * ($colour >> 8 & 255)), (int) ($shade * ($colour & 255)));
    }

    return Png::coloured($rgb, COLUMNS);
}

function picture(Workpiece $of, ?string $only = null): string
{
    $bodies = array_values(array_filter($of->bodies, fn (Body $body) => $only === null || $body->name === $only));
    if ($bodies === []) {
        return cloudPicture($of->passes);
    }
    $mesh = TriangleMesh::joined(array_map(fn (Body $body) => $body->placedMesh(), $bodies));

    return PartPicture::of($mesh, ...eye(), columns: COLUMNS, rows: ROWS);
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

$folder = $argv[1] ?? exit("say the folder\n");
$wanted = array_slice($argv, 2);
$raw = done('simulate', new Workpiece, ['part' => 'pedestal', 'rig' => 'handheld', 'seed' => 3, 'density' => 60.0]);
$one = new Workpiece([$raw->passes[0]]);
$bare = done('drop-base', $raw);
$bareOne = new Workpiece([$bare->passes[0]]);
$clean = done('remove-strays', done('remove-outliers', $bare));
$placed = done('register', done('remove-outliers', $bare));
$fused = done('fuse', $placed, ['voxel' => 1.2]);
$alone = new Workpiece(bodies: $fused->bodies);
$whole = done('keep-pieces', $alone, ['largest' => 1]);
$closed = done('fill-holes', $whole);
$light = done('decimate', $closed, ['faces' => 20000]);
$axis = ['point' => [45.0, 22.0, 20.0], 'direction' => [0.0, 0.0, -1.0]];
$withRod = done('simple-body', $light, ['kind' => 'cylinder', 'axis' => ['point' => [45.0, -20.0, -5.0], 'direction' => [0.0, 0.0, 1.0]], 'diameter' => 22.0, 'height' => 40.0, 'name' => 'Rod']);
$cases = [
    'drop-base' => fn () => [picture($one), picture(done('drop-base', $one))],
    'remove-outliers' => fn () => [picture($bareOne), picture(new Workpiece([$clean->passes[0]]))],
    'thin' => fn () => [picture($bareOne), picture(done('thin', $bareOne, ['spacing' => 4.0]))],
    'fuse' => fn () => [picture($placed), picture($alone)],
    'rebuild' => fn () => [picture($placed), picture(new Workpiece(bodies: done('rebuild', $placed, ['detail' => 2.0])->bodies))],
    'fill-holes' => fn () => [picture($whole), picture($closed)],
    'despike' => fn () => [picture(spiked($light)), picture(done('despike', spiked($light)))],
    'smooth' => fn () => [picture(noisy($closed, 0.9)), picture(done('smooth', noisy($closed, 0.9)))],
    'decimate' => fn () => [picture($closed), picture(done('decimate', $closed, ['faces' => 700]))],
    'split' => fn () => [picture($light), picture(done('split', $light, ['plane' => ['point' => [0.0, 5.0, 0.0], 'normal' => [0.0, 1.0, 0.0]], 'keep' => 'positive', 'cap' => true]))],
    'open-hole' => fn () => [picture($light), picture(done('open-hole', $light, ['axis' => $axis, 'diameter' => 14.0]))],
    'engrave' => fn () => [picture($light), picture(done('engrave', $light, ['text' => 'B7', 'at' => ['point' => [-20.0, -35.0, 8.0], 'up' => [0.0, 0.0, 1.0]], 'height' => 11.0, 'depth' => 1.5]))],
    'take-away' => fn () => [picture($withRod), picture(done('take-away', $withRod, ['with' => 'Rod', 'on' => [$light->bodies[0]->name]]), $light->bodies[0]->name)],
    'add-body' => fn () => [picture($withRod), picture(done('add-body', $withRod, ['with' => 'Rod', 'on' => [$light->bodies[0]->name]]), $light->bodies[0]->name)],
    'keep-common' => fn () => [picture($withRod), picture(done('keep-common', $withRod, ['with' => 'Rod', 'on' => [$light->bodies[0]->name]]), $light->bodies[0]->name)],
    'simple-body' => fn () => [picture($light), picture($withRod)],
    'crop' => fn () => [picture($bareOne), picture(done('crop', $bareOne, ['box' => ['centre' => [0.0, 0.0, 60.0], 'size' => [90.0, 100.0, 60.0]]]))],
    'remove-grazing' => fn () => [picture($bareOne), picture(done('remove-grazing', $bareOne))],
    'register' => fn () => [picture(apart($placed, 1.5, 3.0)), picture(done('register', apart($placed, 1.5, 3.0), ['maxDistance' => 20.0]))],
    'mirror' => fn () => [picture($light), picture(done('mirror', $light, ['plane' => ['point' => [64.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]]]))],
];
foreach ($cases as $name => $pictures) {
    if ($wanted !== [] && ! in_array($name, $wanted, true)) {
        continue;
    }
    try {
        [$before, $after] = $pictures();
    } catch (Throwable $problem) {
        echo "$name: {$problem->getMessage()}\n";

        continue;
    }
    file_put_contents("$folder/$name-before.png", $before);
    file_put_contents("$folder/$name-after.png", $after);
    printf("%-18s %5.1f + %5.1f KB\n", $name, strlen($before) / 1000, strlen($after) / 1000);
}
