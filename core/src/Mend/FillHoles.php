<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\Filling;
use Emberstone\Core\Rims\PatchShape;
use Emberstone\Core\Rims\RimClosing;

/**
 * Closes boundary loops with new surface, marked as filled: whole, in part up to a curve across the open, or with a strip between two stretches.
 *
 * Source    see RimClosing; RimSide for parts and strips, which are laid after whole rims; HoleIslands for holes with loose pieces in them, which one patch takes in.
 * Input     any mesh; faces twice in one place go first, vertices that join two sheets are split, rims to be closed are cleaned.
 * Keeps     every other vertex and face there was, but a ring of faces where a patch could not be laid without passing through it.
 * Cost      grows with the rim's length cubed up to 260 edges; longer rims of up to 5,000 edges take 3 to 5 s.
 *
 * @implements Operation<FillHolesParameters>
 */
final class FillHoles implements Operation
{
    public static function about(): About
    {
        return new About('fill-holes', Stage::Mend, 'Close holes', 'Closes open rims, parts of them, or the gap between two, with new surface, marked as filled.', 'meshes', FillHolesParameters::class, avoid: 'Not for openings that belong to the part: leave those open for good. Not where so much is missing that the shape between is anybody\'s guess: scan it again.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + 4e-6 * $workpiece->faceCount(), 60 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $holes = $left = $faces = $replaced = $plainer = 0;
        $shape = $parameters->patchShape();
        self::checkPicked($workpiece, $parameters);
        $named = self::byBody($workpiece, $parameters);
        $kept = [];
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, $shape, $named, &$kept, &$holes, &$left, &$faces, &$replaced, &$plainer): TriangleMesh {
            $wanted = function (array $rims, array $p) use ($parameters, $body, $named, &$kept): array {
                [$chosen, $kept[$body->id]] = self::chosen(BoundaryLoops::along($rims, $p), $parameters, $named[$body->id] ?? [], $body->openPlaces());

                return $chosen;
            };
            $kept[$body->id] = [];
            $closing = RimClosing::of($mesh, $shape, $wanted, $progress);
            $closed = $closing->mesh;
            $holes += $closing->rims;
            $left += $closing->left;
            $plainer += $closing->plainer;
            $faces += $closed->faceCount() - $mesh->faceCount();
            $replaced += self::measured($mesh) - self::measured($closed);

            return $closed;
        }, $progress);
        $after = $after->withBodies(array_map(fn (Body $body) => isset($kept[$body->id]) ? $body->leavingOpen($kept[$body->id]) : $body, $after->bodies));
        $meant = array_sum(array_map(count(...), $kept));
        $notes = self::notes($meant, $left - $meant, $parameters->maxDiameter !== null && $parameters->rims === null);
        if ($replaced > 0) {
            $notes[] = $replaced === 1
                ? 'One measured face at a rim was replaced, where it was faulty or a patch passed through it.'
                : "$replaced measured faces at the rims were replaced, where they were faulty or a patch passed through them.";
        }

        array_push($notes, ...Filling::plainInWords($plainer));

        $result = new Result($after, self::inWords($holes, $left), ['holes' => $holes], ['holes' => $left, 'faces' => $faces], $notes, $plainer === 0 ? Outcome::Reached : Outcome::StoppedEarly);

        return self::withParts($result, $parameters, $shape, $progress);
    }

    /**
     * Whether the rims are still there that parts and strips were picked on; looked for before any of them is laid, since each changes its rim.
     *
     * @throws UnsuitableInput
     */
    private static function checkPicked(Workpiece $workpiece, FillHolesParameters $parameters): void
    {
        $stretches = [...$parameters->partsOfRims(), ...array_merge(...$parameters->stripsBetweenRims())];
        $rims = array_filter($stretches, fn (array $stretch) => $stretch['diameter'] !== null) === [] ? [] : self::rims($workpiece);
        foreach ($stretches as ['from' => $from, 'diameter' => $diameter]) {
            if ($diameter !== null && array_filter($rims, fn (BoundaryLoops $of) => $of->alike($from, $diameter) !== null) === []) {
                throw UnsuitableInput::because(sprintf('The hole of %s that was picked at %.1f, %.1f, %.1f is not here any more. Pick anew, or leave it out.', Format::mm($diameter), ...$from));
            }
        }
    }

    /** The result with parts of rims closed, and strips laid, after whole rims: what is closed whole is no rim of theirs. */
    private static function withParts(Result $result, FillHolesParameters $parameters, PatchShape $shape, Progress $progress): Result
    {
        $laid = [];
        $workpiece = $result->workpiece;
        foreach ($parameters->partsOfRims() as ['from' => $from, 'to' => $to, 'side' => $side]) {
            $laid[] = $one = RimCover::ofPart($workpiece, $from, $to, $side ?? $from, $shape, $progress);
            $workpiece = $one->workpiece;
        }
        $parts = count($laid);
        foreach ($parameters->stripsBetweenRims() as [$first, $second]) {
            $laid[] = $one = RimCover::ofStrip($workpiece, $first['from'], $first['to'], $second['from'], $second['to'], $progress);
            $workpiece = $one->workpiece;
        }
        if ($laid === []) {
            return $result;
        }
        $strips = count($laid) - $parts;
        $done = array_filter([
            $result->before['holes'] > $result->after['holes'] ? $result->headline : '',
            $parts > 0 ? Format::many($parts, 'part').' closed' : '',
            $strips > 0 ? Format::many($strips, 'strip').' laid' : '',
        ]);
        $holes = end($laid)->after['holes'];
        $isReached = array_filter([$result, ...$laid], fn (Result $one) => $one->outcome !== Outcome::Reached) === [];

        return new Result(
            $workpiece, implode(', ', $done), $result->before, ['holes' => $holes, 'faces' => $result->after['faces'] + array_sum(array_map(fn (Result $one) => $one->after['faces'], $laid))],
            [...$result->notes, ...array_merge(...array_map(fn (Result $one) => $one->notes, $laid))], $isReached ? Outcome::Reached : Outcome::StoppedEarly,
        );
    }

    /**
     * Which rims of a body are closed, and the middles of those that stay open on purpose.
     *
     * @param  array{rims?: list<array{float, float, float}>, leaveOpen?: list<array{float, float, float}>}  $named  places that are meant for this body
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $before  rims that were left open before, see Body
     * @return array{array<int, true>, list<array{0: float, 1: float, 2: float, 3?: float}>}
     */
    private static function chosen(BoundaryLoops $rims, FillHolesParameters $parameters, array $named, array $before): array
    {
        $open = $rims->named($named['leaveOpen'] ?? []);
        $chosen = array_diff_key($parameters->closesAll() ? $rims->not($before) : $rims->named($named['rims'] ?? []), $open);
        $chosen = array_filter($chosen, fn (int $k) => $parameters->maxDiameter === null || $rims->holes[$k]['diameter'] <= $parameters->maxDiameter, ARRAY_FILTER_USE_KEY);
        $kept = [];
        foreach ($rims->holes as $k => $hole) {
            if (! isset($chosen[$k]) && (isset($open[$k]) || BoundaryLoops::isMeant($hole, $before))) {
                $kept[] = [...$hole['centre'], $hole['diameter']];
            }
        }

        return [$chosen, $kept];
    }

    /**
     * What is left open, on purpose or not, in words.
     *
     * @return list<string>
     */
    private static function notes(int $meant, int $more, bool $byWidth): array
    {
        $notes = [];
        if ($meant > 0) {
            $notes[] = ($meant === 1 ? '1 rim is' : "$meant rims are").' left open on purpose; the ready card counts '.($meant === 1 ? 'it' : 'them').' as wanted.';
        }
        if ($more > 0 && $byWidth) {
            $notes[] = $more === 1 ? '1 rim is wider than the limit and stays open.' : "$more rims are wider than the limit and stay open.";
        } elseif ($more > 0) {
            $notes[] = $more === 1 ? '1 rim stays open.' : "$more rims stay open.";
        }

        return $notes;
    }

    private static function measured(TriangleMesh $mesh): int
    {
        return $mesh->faceCount() - count(array_filter($mesh->origin));
    }

    /**
     * Each named place goes to the body whose rim is nearest to it.
     *
     * @return array<string, array{rims?: list<array{float, float, float}>, leaveOpen?: list<array{float, float, float}>}> by id of the body
     *
     * @throws UnsuitableInput when places are named and there is no rim at all
     */
    private static function byBody(Workpiece $workpiece, FillHolesParameters $parameters): array
    {
        $lists = $parameters->picks();
        if ($lists === []) {
            return [];
        }
        $rims = self::rims($workpiece);
        $named = [];
        foreach ($lists as $list => $places) {
            foreach ($places as ['at' => $at, 'diameter' => $diameter]) {
                $distances = array_filter(array_map(fn (BoundaryLoops $of) => $of->nearest($at)['distance'] ?? null, $rims), fn (?float $d) => $d !== null);
                if ($distances === []) {
                    throw UnsuitableInput::because('No rim is open any more; there is nothing to fill.');
                }
                $body = (string) array_search(min($distances), $distances, true);
                if ($diameter !== null) {
                    $alike = array_filter(array_map(fn (BoundaryLoops $of) => $of->alike($at, $diameter), $rims));
                    if ($alike === []) {
                        $other = $rims[$body]->holes[$rims[$body]->nearest($at)['rim'] ?? 0];
                        throw UnsuitableInput::because(sprintf(
                            'The hole of %s that was %s at %.1f, %.1f, %.1f is not here any more: the rim nearest to it is %s wide and %s away. Pick anew, or leave it out.',
                            Format::mm($diameter), $list === 'rims' ? 'picked' : 'left open', $at[0], $at[1], $at[2], Format::mm($other['diameter']), Format::mm($distances[$body]),
                        ));
                    }
                    uasort($alike, fn (array $a, array $b) => $a['distance'] <=> $b['distance']);
                    $body = (string) array_key_first($alike);
                    $at = $alike[$body]['at'];
                }
                $named[$body][$list][] = $at;
            }
        }

        return $named;
    }

    /** @return array<string, BoundaryLoops> the open rims of each mesh, by id of the body */
    private static function rims(Workpiece $workpiece): array
    {
        $rims = [];
        foreach ($workpiece->meshes() as $body) {
            $rims[$body->id] = BoundaryLoops::of($body->placedMesh());
        }

        return $rims;
    }

    /** "16 holes closed", "15 of 16 holes closed, 1 left". */
    private static function inWords(int $holes, int $left): string
    {
        return $left === 0 ? Format::many($holes, 'hole').' closed' : ($left === $holes ? Format::many($holes, 'hole').' left open' : sprintf('%d of %d holes closed, %d left', $holes - $left, $holes, $left));
    }
}
