<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs\Catalogue as Parts;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;

/** Simulated scans of exact parts, measured by clicks: what each measurement is off, and what it says of itself. */
final class MeasuredScans
{
    /** Edge of the cells at which exact parts are laid, mm: the area of the cap is off by 6e-4 of itself there, its volume by 4e-5 (against cells of 0.25 mm). */
    private const EXACT = 1.0;

    /** @return array<string, array{string, list<array{at: list<float>, fit: string}>, float}> by what it is: kind, of, truth; places of the part, mm */
    public static function measures(string $part): array
    {
        $plane = fn (float ...$at) => ['at' => array_values($at), 'fit' => 'plane'];
        $round = fn (float ...$at) => ['at' => array_values($at), 'fit' => 'cylinder'];
        $place = fn (float ...$at) => ['at' => array_values($at), 'fit' => 'point'];
        // On the ring of the cap, by its radius and the angle over the joint.
        $ring = fn (float $radius, float $degrees, float $y) => $place($radius * cos(deg2rad($degrees)), $y, 52.0 + $radius * sin(deg2rad($degrees)));

        return [
            'pedestal' => [
                'bore' => ['diameter', [$round(10.6, 5.0, 41.4)], 30.0],
                'boss' => ['diameter', [$round(0.0, 20.0, 79.0)], 54.0],
                'base to top' => ['distance', [$plane(30.0, 20.0, 0.0), $plane(40.0, 25.0, 14.0)], 14.0],
                'base to bore' => ['distance', [$plane(30.0, 20.0, 0.0), $round(10.6, 5.0, 41.4)], 52.0],
                'end to end' => ['distance', [$plane(0.0, -30.0, 73.0), $plane(0.0, 30.0, 73.0)], 60.0],
                'side to side' => ['distance', [$plane(60.0, 10.0, 7.0), $plane(-60.0, 10.0, 7.0)], 120.0],
                'front to back' => ['distance', [$plane(40.0, -35.0, 7.0), $plane(40.0, 35.0, 7.0)], 70.0],
                'base to end' => ['angle', [$plane(30.0, 20.0, 0.0), $plane(0.0, 30.0, 73.0)], 90.0],
                'rib slope' => ['angle', [$plane(30.0, 20.0, 0.0), $plane(30.0, 0.0, 36.0)], 45.0],
                'ends' => ['angle', [$plane(0.0, -30.0, 73.0), $plane(0.0, 30.0, 73.0)], 0.0],
            ],
            'cap' => [
                'outside' => ['diameter', [$round(24.0, -9.0, 76.08)], 68.0],
                'inside' => ['diameter', [$round(19.0, -9.0, 71.18)], 54.0],
                'hole' => ['diameter', [$round(48.5, 0.0, 57.0)], 9.0],
                'hole to hole' => ['distance', [$round(48.5, 0.0, 57.0), $round(-50.5, 0.0, 57.0)], 90.0],
                'ends' => ['distance', [$plane(46.0, -18.0, 57.0), $plane(46.0, 18.0, 57.0)], 36.0],
                'lug' => ['distance', [$plane(46.0, 13.0, 52.0), $plane(46.0, 13.0, 62.0)], 10.0],
                'joint flat' => ['flatness', [$plane(46.0, 13.0, 52.0)], 0.0],
                'end flat' => ['flatness', [$plane(46.0, -18.0, 57.0)], 0.0],
                'outside round' => ['roundness', [$round(24.0, -9.0, 76.08)], 0.0],
                'inside a cylinder' => ['cylindricity', [$round(19.0, -9.0, 71.18)], 0.0],
                'opening' => ['opening', [$round(19.0, -9.0, 71.18)], 54.0],
                'ring wall' => ['wall', [$ring(34.0, 45.0, -9.0)], 7.0],
                'lug wall' => ['wall', [$place(46.0, 13.0, 62.0)], 10.0],
                'clicked ends' => ['distance', [$place(51.0, 18.0, 57.0), $place(51.0, -18.0, 57.0)], 36.0],
                'around' => ['length', [$ring(34.0, 30.0, -9.0), $ring(34.0, 65.0, -9.0)], 34.0 * deg2rad(35.0)],
                'across the end' => ['length', [$ring(30.0, 10.0, 18.0), $ring(30.0, 60.0, 18.0)], 60.0 * sin(deg2rad(25.0))],
                'area' => ['area', [], self::exact($part)[0]],
                'volume' => ['volume', [], self::exact($part)[1]],
                'box' => ['box', [], 112.0],
                'joint to axis' => ['distance', [$plane(46.0, 13.0, 52.0), $round(24.0, -9.0, 76.08)], 0.0],
            ],
        ][$part];
    }

    /**
     * Scans a part, registers the passes from where the rig believes them to be, fuses them, closes the mesh and measures.
     *
     * @param  int  $columns  of the camera; it has three rows for four of them
     * @param  float  $voxel  mm
     * @return array<string, array{error: float, told: float}> by what was measured: the value less the truth, and the standard deviation told; mm or degrees
     */
    public static function of(string $name, int $seed, int $columns, float $voxel): array
    {
        $part = Parts::part($name);
        $rig = new HandheldRig(width: $columns, height: intdiv(3 * $columns, 4));
        $passes = [];
        $first = null;
        for ($k = 0; $k < $rig->passes(); $k++) {
            ['cloud' => $cloud, 'pose' => $pose] = $rig->capture($part, $k, $seed);
            // The first stays where it is: from its coordinates into those of the part.
            $first ??= $pose;
            $passes[] = Pass::of("pass $k", $cloud->kept(self::ofThePart($part, $cloud->transformed($pose)->positions)));
        }
        $workpiece = new Workpiece($passes);
        foreach (['register' => ['coarse' => 'none'], 'fuse' => ['voxel' => $voxel], 'keep-pieces' => ['largest' => 1], 'fill-holes' => []] as $op => $parameters) {
            $workpiece = Catalogue::operation($op)($workpiece, Catalogue::parameters($op, $parameters), new NoProgress)->workpiece;
        }
        $workpiece = $workpiece->moved($first);
        $mesh = $workpiece->meshes()[0]->placedMesh();
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $found = [];
        foreach (self::measures($name) as $what => [$kind, $of, $truth]) {
            // A click lies on the surface that is there.
            $of = array_map(fn (array $one) => ['at' => $one['fit'] === 'point' ? self::foot($tree, $mesh, $one['at']) : $one['at']] + $one, $of);
            [$figures] = Catalogue::operation('measure')($workpiece, Catalogue::parameters('measure', ['kind' => $kind, 'of' => $of]), new NoProgress)->after['measurements'];
            $found[$what] = ['error' => $figures['value'] - $truth, 'told' => 0.5 * (float) $figures['uncertainty']];
        }

        return $found;
    }

    /**
     * @param  list<float>  $place
     * @return list<float>
     */
    private static function foot(TriangleBvh $tree, TriangleMesh $mesh, array $place): array
    {
        $face = $distanceSq = [];
        $tree->closest($place, $face, $distanceSq);

        return TriangleFeet::of($place, $face, $mesh->positions, $mesh->faces);
    }

    /** @return array{float, float} area, mm2, and volume, mm3, of the part itself */
    private static function exact(string $part): array
    {
        static $known = [];
        $mesh = isset($known[$part]) ? null : ExactSurface::of(Parts::part($part), self::EXACT);

        return $known[$part] ??= $mesh === null ? [0.0, 0.0] : [array_sum(Measure::areas($mesh->positions, $mesh->faces)), Measure::volume($mesh->positions, $mesh->faces)];
    }

    /**
     * A mask without the table and what flies about.
     *
     * @param  array<int, float>  $positions
     */
    private static function ofThePart(Part $part, array $positions): string
    {
        return implode('', array_map(fn (array $p) => abs($part->distance(...$p)) < 0.4 ? "\1" : "\0", array_chunk($positions, 3)));
    }
}
