<?php

declare(strict_types=1);

// How the small pictures of the help are drawn: surfaces, points, and what stands for lines and marks among them. See help-pictures.php.

use Emberstone\Core\Deliver\Handover\PartPicture;
use Emberstone\Core\Exchange\Png;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/** Size of a picture, pixels. */
const COLUMNS = 144;
const ROWS = 108;

/** Colours of passes, as the window has them. */
const TINTS = [0xC98B5E, 0x8AA777, 0x7B97B8, 0xA98BB8, 0xC9B15E, 0x77A7A0, 0xB87B8A, 0x9A9A86];

/** What a step is about: selected, picked, faulty. */
const MARKED = 0xD4502A;

/** Marked points are drawn as if they lay this much nearer, mm, so that others beside them do not hide them. */
const LIFT = 3.0;

/** Lines and arrows that are not part of the scan. */
const INK = 0x3A4A5C;

/** The three axes of a frame: x, y, z. */
const AXES = [0xC0392B, 0x3E8E41, 0x2F66B0];

/** A drawn point covers its pixel and this many to the right and below. */
const POINT = 1;

/** A pixel that lies farther behind a neighbour than this share of the picture's size is darkened: it draws the outline between near and far. */
const BEHIND = 0.02;

/** Where it is looked from unless told: the right front, from above. */
const ALONG = [-0.55, 0.7, -0.5];

/**
 * Points, each group in its colour.
 *
 * @param  list<array{array<int, float>, int}>  $groups  flat xyz in mm, and red << 16 | green << 8 | blue
 * @param  array<int, float>  $within  flat xyz: the picture shows all of these too, so that two pictures have one scale
 * @param  array{float, float, float}  $looking  the way it is looked
 */
function pointsPicture(array $groups, array $within = [], array $looking = ALONG): string
{
    $along = Vector3::unit($looking);
    $up = Vector3::unit(Vector3::minus([0.0, 0.0, 1.0], Vector3::scaled($along, $along[2])));
    $right = Vector3::cross($along, $up);
    $seen = [];
    $box = [INF, INF, -INF, -INF];
    foreach ([...$groups, [$within, -1]] as [$points, $tint]) {
        foreach (array_chunk($points, 3) as $at) {
            [$x, $y] = [Vector3::dot($at, $right), -Vector3::dot($at, $up)];
            if ($tint >= 0) {
                $seen[] = [$x, $y, Vector3::dot($at, $along) - ($tint === MARKED ? LIFT : 0.0), $tint];
            }
            if ($tint < 0 || $within === []) {
                $box = [min($box[0], $x), min($box[1], $y), max($box[2], $x), max($box[3], $y)];
            }
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

/**
 * Passes, each in its colour; those of $marked in the colour of what a step is about.
 *
 * @param  list<Pass>  $passes
 * @param  array<int, float>  $marked  flat xyz: more points, marked
 * @param  array<int, float>  $within
 * @param  array{float, float, float}  $looking
 */
function passesPicture(array $passes, array $marked = [], array $within = [], array $looking = ALONG): string
{
    return pointsPicture([[$marked, MARKED], ...array_map(fn (Pass $pass, int $k) => [$pass->placed()->positions, TINTS[$k % count(TINTS)]], $passes, array_keys($passes))], $within, $looking);
}

/**
 * Surfaces, lines and marks.
 *
 * @param  list<array{TriangleMesh, int|list<int>}>  $things  each with its colour, or one of each face; -1 is that of what the surface rests on
 * @param  array<int, float>  $within  as for points; it widens the picture only
 * @param  array{float, float, float}  $looking
 */
function surfacePicture(array $things, array $within = [], array $looking = ALONG): string
{
    $tints = [];
    foreach ($things as [$mesh, $tint]) {
        array_push($tints, ...(is_int($tint) ? array_fill(0, $mesh->faceCount(), $tint) : $tint));
    }
    $mesh = TriangleMesh::joined([...array_column($things, 0), TriangleMesh::fromFlat($within, [])]);

    return PartPicture::of($mesh, Vector3::unit($looking), [0.0, 0.0, 1.0], COLUMNS, ROWS, $tints);
}

/** What a workpiece holds: its bodies, or where it has none its passes. */
function picture(Workpiece $of, ?string $only = null): string
{
    $bodies = array_values(array_filter($of->bodies, fn (Body $body) => $only === null || $body->name === $only));

    return $bodies === [] ? passesPicture($of->passes) : surfacePicture(array_map(fn (Body $body) => [$body->placedMesh(), -1], $bodies));
}

/**
 * A line through places, as a thin rod of three sides.
 *
 * @param  list<array{float, float, float}>  $places
 * @param  float  $radius  mm
 */
function rod(array $places, float $radius): TriangleMesh
{
    $positions = $faces = [];
    for ($k = 1; $k < count($places); $k++) {
        $way = Vector3::minus($places[$k], $places[$k - 1]);
        if (Vector3::dot($way, $way) < 1e-12) {
            continue;
        }
        [$u, $v] = Vector3::square(Vector3::unit($way));
        $first = intdiv(count($positions), 3);
        foreach ([$places[$k - 1], $places[$k]] as $end) {
            for ($s = 0; $s < 3; $s++) {
                $turn = 2.0 * M_PI * $s / 3.0;
                array_push($positions, ...Vector3::plus($end, Vector3::plus(Vector3::scaled($u, $radius * cos($turn)), Vector3::scaled($v, $radius * sin($turn)))));
            }
        }
        for ($s = 0; $s < 3; $s++) {
            $t = ($s + 1) % 3;
            array_push($faces, $first + $s, $first + $t, $first + 3 + $s, $first + $t, $first + 3 + $t, $first + 3 + $s);
        }
    }

    return TriangleMesh::fromFlat($positions, $faces);
}

/**
 * A rod with a point at its end.
 *
 * @param  array{float, float, float}  $from
 * @param  array{float, float, float}  $to
 */
function arrow(array $from, array $to, float $radius): TriangleMesh
{
    $way = Vector3::unit(Vector3::minus($to, $from));
    [$u, $v] = Vector3::square($way);
    $foot = Vector3::minus($to, Vector3::scaled($way, 7.0 * $radius));
    $positions = $to;
    $faces = [];
    for ($s = 0; $s < 8; $s++) {
        $turn = M_PI * $s / 4.0;
        array_push($positions, ...Vector3::plus($foot, Vector3::plus(Vector3::scaled($u, 3.0 * $radius * cos($turn)), Vector3::scaled($v, 3.0 * $radius * sin($turn)))));
        array_push($faces, 0, 1 + $s, 1 + ($s + 1) % 8);
    }

    return TriangleMesh::joined([rod([$from, $foot], $radius), TriangleMesh::fromFlat($positions, $faces)]);
}

/**
 * A mark on a place: a small eight-faced ball.
 *
 * @param  array{float, float, float}  $at
 */
function mark(array $at, float $radius): TriangleMesh
{
    $positions = [];
    foreach ([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]] as $corner) {
        array_push($positions, ...Vector3::plus($at, Vector3::scaled($corner, $radius)));
    }

    return TriangleMesh::fromFlat($positions, [0, 2, 4, 2, 1, 4, 1, 3, 4, 3, 0, 4, 2, 0, 5, 1, 2, 5, 3, 1, 5, 0, 3, 5]);
}

/** The edges of the cells of a mesh, as thin rods. */
function wires(TriangleMesh $mesh, float $radius): TriangleMesh
{
    $rods = [];
    $done = [];
    foreach ($mesh->cells() as $cell) {
        $n = count($cell);
        for ($k = 0; $k < $n; $k++) {
            [$a, $b] = [min($cell[$k], $cell[($k + 1) % $n]), max($cell[$k], $cell[($k + 1) % $n])];
            if (! isset($done["$a-$b"])) {
                $done["$a-$b"] = true;
                $rods[] = rod([array_slice($mesh->positions, 3 * $a, 3), array_slice($mesh->positions, 3 * $b, 3)], $radius);
            }
        }
    }

    return TriangleMesh::joined($rods);
}

/**
 * A piece of a plane; the side that u and v run around counter-clockwise is its front.
 *
 * @param  array{float, float, float}  $at  its middle
 * @param  array{float, float, float}  $u  from the middle to one side, mm
 * @param  array{float, float, float}  $v  to the other
 */
function plate(array $at, array $u, array $v): TriangleMesh
{
    $corner = fn (float $a, float $b): array => Vector3::plus($at, Vector3::plus(Vector3::scaled($u, $a), Vector3::scaled($v, $b)));

    return TriangleMesh::fromFlat([...$corner(-1, -1), ...$corner(1, -1), ...$corner(1, 1), ...$corner(-1, 1)], [0, 1, 2, 0, 2, 3]);
}

/** @return list<array{TriangleMesh, int}> the arrows of a frame that begins at the origin */
function axes(float $length): array
{
    return array_map(fn (int $k) => [arrow([0.0, 0.0, 0.0], Vector3::scaled([(float) ($k === 0), (float) ($k === 1), (float) ($k === 2)], $length), $length / 55.0), AXES[$k]], [0, 1, 2]);
}
