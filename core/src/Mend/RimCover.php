<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;

/** New surface over part of a hole, as a step's result. */
final class RimCover
{
    /**
     * @param  list<int>  $ring  see RimFiller::cover
     * @param  list<float>  $places  flat xyz
     *
     * @throws UnsuitableInput when the ring is too short to carry surface
     */
    public static function laid(Workpiece $workpiece, RimSide $rim, array $ring, array $places, string $shape, int $mark, Progress $progress): Result
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
    public static function numbers(int $first, array $places): array
    {
        return $places === [] ? [] : range($first, $first + intdiv(count($places), 3) - 1);
    }
}
