<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Icp\SurfaceBestFit;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Datums\DatumPairs;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\SelectionParameters;

/** How what a body is compared with is laid onto it first: by the whole surface, by selected faces, or by datums. Motions are in project coordinates, mm. */
final class ComparisonFit
{
    /** Points that a best fit goes by: of 10,000 with errors of 0.05 mm it is right to a thousandth. */
    private const FITTED = 10_000;

    /** Points among which those near selected faces are looked for, as a multiple of FITTED. */
    private const LOOKED_AT = 8;

    /** Of the size of the selected area: points farther outside of its box than this are not looked at. */
    private const AROUND = 0.1;

    /** Fewer points than the six freedoms of a motion, ten times over, say nothing about it. */
    private const FEWEST = 60;

    /**
     * The motion of points onto the body.
     *
     * @param  list<float>  $points  flat xyz
     */
    public static function ofPoints(array $points, Body $body, TriangleMesh $mesh, CompareParameters $parameters): RigidTransform
    {
        return SurfaceBestFit::of($parameters->fitBy === CompareParameters::SELECTION ? self::near($points, $body, $mesh, $parameters) : self::some($points, self::FITTED), $mesh->positions, $mesh->faces);
    }

    /**
     * The motion of another surface onto the body.
     *
     * @param  list<float>  $places  spread over the body
     * @param  list<Datum>  $datums
     */
    public static function ofSurface(array $places, Body $body, TriangleMesh $mesh, Body $other, TriangleMesh $surface, CompareParameters $parameters, array $datums): RigidTransform
    {
        if ($parameters->fitBy === CompareParameters::DATUMS) {
            return DatumPairs::solve($parameters->datums ?? [], $datums, $other->id, $other->name)->by;
        }
        $from = $parameters->fitBy === CompareParameters::SELECTION ? SurfaceDistance::onSurface($mesh->withFaces(self::selected($body, $mesh, $parameters)), self::FITTED) : self::some($places, self::FITTED);

        // From the body onto the other, and back.
        return SurfaceBestFit::of($from, $surface->positions, $surface->faces)->inverse();
    }

    /**
     * Points that lie nearest to a selected face of the body.
     *
     * @param  list<float>  $points
     * @return list<float>
     */
    private static function near(array $points, Body $body, TriangleMesh $mesh, CompareParameters $parameters): array
    {
        $selected = self::selected($body, $mesh, $parameters);
        $box = BoundingBox::of($mesh->withFaces($selected)->positions);
        $around = self::AROUND * $box->diagonal();
        $there = [];
        for ($o = 0, $n = count($points); $o < $n; $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                if ($points[$o + $k] < $box->min[$k] - $around || $points[$o + $k] > $box->max[$k] + $around) {
                    continue 2;
                }
            }
            array_push($there, $points[$o], $points[$o + 1], $points[$o + 2]);
        }
        $there = self::some($there, self::LOOKED_AT * self::FITTED);
        $face = $distanceSq = $near = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest($there, $face, $distanceSq);
        $isSelected = array_fill_keys($selected, true);
        foreach ($face as $k => $t) {
            if (isset($isSelected[$t])) {
                array_push($near, $there[3 * $k], $there[3 * $k + 1], $there[3 * $k + 2]);
            }
        }

        return count($near) >= 3 * self::FEWEST ? self::some($near, self::FITTED) : throw UnsuitableInput::because('Only '.intdiv(count($near), 3)." points lie near what is selected of $body->name, too few to fit by; select more.");
    }

    /** @return non-empty-list<int> the selected faces */
    private static function selected(Body $body, TriangleMesh $mesh, CompareParameters $parameters): array
    {
        $faces = [];
        foreach ((new SelectionParameters($parameters->selection ?? []))->ranges($body->id, $mesh->faceCount()) ?? [] as [$from, $to]) {
            array_push($faces, ...range($from, $to));
        }

        return $faces !== [] ? $faces : throw UnsuitableInput::because("Nothing of $body->name is selected; select the faces that the fit goes by, or fit by the whole surface.");
    }

    /**
     * The points thinned evenly, so that no more than twice the number asked for are left.
     *
     * @param  array<int, float>  $points  flat xyz
     * @return list<float>
     */
    private static function some(array $points, int $most): array
    {
        $every = max(1, intdiv(count($points), 3 * $most));
        $some = [];
        for ($o = 0, $n = count($points); $o < $n; $o += 3 * $every) {
            array_push($some, $points[$o], $points[$o + 1], $points[$o + 2]);
        }

        return $some;
    }
}
