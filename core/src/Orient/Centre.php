<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Algorithms\Fitting\SmallestBox;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Surface\Moments;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves the origin to the middle of everything and, if asked, the axes along its main axes: a start where there is nothing straight.
 *
 * @implements Operation<CentreParameters>
 */
final class Centre implements Operation
{
    /** Spreads along two axes closer than this share leave the turn between them open. */
    private const ALIKE = 0.02;

    public static function about(): About
    {
        return new About('centre', Stage::Orient, 'Centre', 'Moves the origin to the middle, and the axes along the main axes or the smallest box: a start for parts on which nothing is straight.', 'any', CentreParameters::class, together: true, avoid: 'Not where the part has a flat face or a bore to stand by: set the frame from datums.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-6 * ($workpiece->faceCount() + $workpiece->pointCount()), 50 + 1e-4 * ($workpiece->faceCount() + $workpiece->pointCount()));
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        // About the middle of it all: moments about a far origin would lose their digits.
        $middle = Extent::of($workpiece)->centre();
        $there = RigidTransform::shift(-$middle[0], -$middle[1], -$middle[2]);
        $local = $workpiece->moved($there);
        [$moments, $of] = self::moments($local);
        $centre = $parameters->at === 'box' ? Extent::of($local)->centre() : Moments::centre($moments);
        $by = RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2]);
        $notes = [];
        $sides = [];
        if ($parameters->smallestBox) {
            $points = self::points($local);
            $box = SmallestBox::around($points);
            $turn = RigidTransform::of(self::rows($box['axes']), [0.0, 0.0, 0.0]);
            // Its own middle, not that of the box along the axes of before.
            $centre = $parameters->at === 'box' ? $turn->inverse()->point(BoundingBox::of($turn->points($points))->centre()) : $centre;
            $by = RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2])->then($turn);
            $sides = array_reverse($box['sides']);
            $notes[] = vsprintf('The smallest box is %.2f x %.2f x %.2f mm.', $sides);
        } elseif ($parameters->axes) {
            [$values, $vectors] = Symmetric3::eigen(...Moments::covariance($moments));
            $by = $by->then(RigidTransform::of(self::rows($vectors), [0.0, 0.0, 0.0]));
            foreach ([[2, 1, 'X and Y'], [1, 0, 'Y and Z']] as [$a, $b, $axes]) {
                if ($values[$b] > (1.0 - self::ALIKE) * $values[$a]) {
                    $notes[] = "It is as wide one way as the other: where $axes lie, its shape does not say.";
                }
            }
        }
        $progress->advance('moments', 1.0);
        $by = $there->then($by);
        $centre = [$centre[0] + $middle[0], $centre[1] + $middle[1], $centre[2] + $middle[2]];

        return new Result($workpiece->moved($by), $parameters->at === 'box' ? 'origin in the middle of the box' : "origin in the centre of its $of", [], ['transform' => $by->matrix, 'centre' => $centre] + ($sides === [] ? [] : ['box' => $sides]), $notes, everything: Placement::of(1.0, $by));
    }

    /**
     * Of all bodies together, or of all passes where there are none.
     *
     * @return array{list<float>, string} and of what
     */
    private static function moments(Workpiece $workpiece): array
    {
        $meshes = [];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placed();
            assert($mesh instanceof TriangleMesh);
            $meshes[] = $mesh;
        }
        if ($meshes === []) {
            $sum = array_fill(0, 10, 0.0);
            foreach ($workpiece->bodies !== [] ? $workpiece->bodies : $workpiece->passes as $one) {
                $sum = array_map(fn (float $a, float $b) => $a + $b, $sum, Moments::ofPoints($one->placed()->positions));
            }

            return [$sum, 'points'];
        }
        $closed = array_filter($meshes, fn (TriangleMesh $mesh) => min([0, ...Topology::twins($mesh->faces)]) < 0) === [];
        $sum = array_fill(0, 10, 0.0);
        foreach ($meshes as $mesh) {
            $sum = array_map(fn (float $a, float $b) => $a + $b, $sum, $closed ? Moments::ofVolume($mesh->positions, $mesh->faces) : Moments::ofSurface($mesh->positions, $mesh->faces));
        }

        return [$sum, $closed ? 'volume' : 'surface'];
    }

    /** @return list<float> flat xyz, of all bodies together, or of all passes where there are none */
    private static function points(Workpiece $workpiece): array
    {
        return array_merge(...array_map(fn (Pass|Body $one) => $one->placed()->positions, $workpiece->bodies !== [] ? $workpiece->bodies : $workpiece->passes));
    }

    /**
     * The main axes as rows of a turn, longest first, right-handed, each towards where it pointed before.
     *
     * @param  list<array{float, float, float}>  $vectors  shortest first
     * @return list<float>
     */
    private static function rows(array $vectors): array
    {
        $positive = fn (array $v): array => $v[0] + 1.01 * $v[1] + 1.02 * $v[2] < 0.0 ? [-$v[0], -$v[1], -$v[2]] : $v;
        [$x, $y] = [$positive($vectors[2]), $positive($vectors[1])];

        return [...$x, ...$y, $x[1] * $y[2] - $x[2] * $y[1], $x[2] * $y[0] - $x[0] * $y[2], $x[0] * $y[1] - $x[1] * $y[0]];
    }
}
