<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\Filling;
use Emberstone\Core\Rims\PatchShape;
use Emberstone\Core\Rims\RimFiller;

/** New surface over part of a hole, as a step's result. */
final class RimCover
{
    /**
     * One side of a rim, up to a curve across the open.
     *
     * @param  array{float, float, float}  $from  a place on the rim
     * @param  array{float, float, float}  $to
     * @param  array{float, float, float}  $side  a place on the side to close
     *
     * @throws UnsuitableInput
     */
    public static function ofPart(Workpiece $workpiece, array $from, array $to, array $side, PatchShape $shape, Progress $progress): Result
    {
        $rim = RimSide::nearest($workpiece, $from);
        $stretch = $rim->stretch($from, $to, $side);
        $places = $rim->across($stretch[count($stretch) - 1], $stretch[0]);

        return self::laid($workpiece, $rim, [...$stretch, ...self::numbers($rim->mesh->vertexCount(), $places)], $places, $shape, TriangleMesh::FILLED, $progress);
    }

    /**
     * A strip between two stretches of one rim or two.
     *
     * @param  array{float, float, float}  $a  where the first stretch begins
     * @param  array{float, float, float}  $b  where it ends
     * @param  array{float, float, float}  $c
     * @param  array{float, float, float}  $d
     *
     * @throws UnsuitableInput
     */
    public static function ofStrip(Workpiece $workpiece, array $a, array $b, array $c, array $d, Progress $progress): Result
    {
        $rim = RimSide::nearest($workpiece, $a);
        $one = $rim->stretch($a, $b);
        $two = $rim->stretch($c, $d);
        if (array_intersect($one, $two) !== []) {
            throw UnsuitableInput::because('The two stretches meet; a strip needs open space between them. Pick ends farther apart.');
        }
        $there = $rim->across($one[count($one) - 1], $two[0]);
        $back = $rim->across($two[count($two) - 1], $one[0]);
        $first = $rim->mesh->vertexCount();
        $ring = [...$one, ...self::numbers($first, $there), ...$two, ...self::numbers($first + intdiv(count($there), 3), $back)];

        return self::laid($workpiece, $rim, $ring, [...$there, ...$back], new PatchShape, TriangleMesh::STRIP, $progress);
    }

    /**
     * @param  list<int>  $ring  see RimFiller::cover
     * @param  list<float>  $places  flat xyz
     *
     * @throws UnsuitableInput when the ring is too short to carry surface
     */
    private static function laid(Workpiece $workpiece, RimSide $rim, array $ring, array $places, PatchShape $shape, int $mark, Progress $progress): Result
    {
        if (count($ring) < 3) {
            throw UnsuitableInput::because('The places are neighbours on the rim; there is nothing between them to close. Pick them farther apart.');
        }
        $before = BoundaryLoops::of($rim->mesh);
        $filling = (new RimFiller)->cover($rim->mesh, $ring, $places, $shape, $mark, $progress);
        $after = BoundaryLoops::of($filling->mesh);
        $holes = [count($before->rims), count($after->rims)];
        $faces = $filling->mesh->faceCount() - $rim->mesh->faceCount();
        $notes = $filling->crossings === 0 ? [] : ["$filling->crossings pairs of faces pass through each other there: undo and choose other places, or repair."];
        array_push($notes, ...Filling::plainInWords($filling->plainer));

        return new Result(
            $workpiece->withBodies(array_map(fn (Body $body) => $body->id === $rim->body->id ? $body->reshaped($filling->mesh) : $body, $workpiece->bodies)),
            "$holes[0] → $holes[1] holes, ".Format::count($faces).' new faces', ['holes' => $holes[0]], ['holes' => $holes[1], 'faces' => $faces], $notes,
            $filling->crossings + $filling->plainer === 0 ? Outcome::Reached : Outcome::StoppedEarly,
        );
    }

    /**
     * The numbers of places that come behind the vertices.
     *
     * @param  list<float>  $places  flat xyz
     * @return list<int>
     */
    private static function numbers(int $first, array $places): array
    {
        return $places === [] ? [] : range($first, $first + intdiv(count($places), 3) - 1);
    }
}
