<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Field\OffsetSurface;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes a closed body of a sheet: what lies within a distance of it, with round rims. Of a closed body it leaves a wall.
 *
 * Method    the sheet is shifted by half the thickness along its normals, and the surface at half the thickness all around it is taken (Algorithms\Field\OffsetSurface): it cannot cross itself, where the sheet bends
 *           more tightly than that it closes up.
 * Output    closed and sound. The surface is laid anew: faces that lie on the sheet keep its evidence, all others are marked as made.
 * Error     told: how far the sheet lies off the new surface at the worst place, and where.
 *
 * @implements Operation<ThickenParameters>
 */
final class Thicken implements Operation
{
    /** Of the thickness: faces of the new surface nearer to the sheet than this, and facing as it does or the other way, stand for it. */
    private const ON = 0.05;

    /** Cosine of 45 degrees. */
    private const FACING = 0.7;

    /** Of the thickness: farther off than this a place of the sheet is told. */
    private const FAR = 0.1;

    public static function about(): About
    {
        return new About('thicken', Stage::Deliver, 'Thicken', 'Makes a closed body of an open scan, a sheet or a cover, by giving it a thickness.', 'meshes', ThickenParameters::class, avoid: 'Not for a scan of both sides: fuse those to a closed body.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $area = 0.0;
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->geometry;
            $area += $mesh instanceof TriangleMesh && $mesh->faces !== [] ? $body->scale ** 2 * array_sum(Measure::areas($mesh->positions, $mesh->faces)) : 0.0;
        }
        // Voxels of a fifth of the thickness, in a band of two sides.
        $voxels = min(2.5e6, 20.0 * $area / (0.2 * $parameters->thickness()) ** 2);

        return new Estimate(0.5 + 4e-6 * $voxels + 1e-5 * $workpiece->faceCount(), 100 + 1.2e-4 * $voxels + 1e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $chosen = Choice::of($workpiece, $parameters->body, $parameters->on);
        $changed = $notes = [];
        $sum = ['faces' => 0, 'volume' => 0.0, 'off' => 0.0];
        $before = 0;
        foreach (array_values($chosen) as $k => $body) {
            $part = new PartProgress($progress, $k / count($chosen), ($k + 1) / count($chosen));
            $sheet = $body->placedMesh();
            if ($sheet->faces === []) {
                throw UnsuitableInput::because("$body->name has no faces to thicken.");
            }
            $made = self::made($body->name, $sheet, $parameters, $part);
            [$off, $place] = self::off($sheet, $made, $parameters->side === 'both' ? $parameters->distance : 0.0);
            $notes[] = sprintf('The surface is laid anew: the scanned side of %s lies within %s of it%s.', $body->name, Format::mm($off), $off > self::FAR * $parameters->thickness() ? sprintf(', most at (%.2f, %.2f, %.2f), where it bends more tightly than the thickness allows', ...$place) : '');
            $changed[$body->id] = $body->reshaped($made)->leavingOpen([]);
            $before += $sheet->faceCount();
            $sum = ['faces' => $sum['faces'] + $made->faceCount(), 'volume' => $sum['volume'] + Measure::volume($made->positions, $made->faces), 'off' => max($sum['off'], $off)];
        }

        return new Result(
            $workpiece->withBodies(array_map(fn (Body $body) => $changed[$body->id] ?? $body, $workpiece->bodies)),
            sprintf('%s thick, %s', Format::mm($parameters->thickness()), Format::volume($sum['volume'])), ['faces' => $before], $sum, $notes,
        );
    }

    private static function made(string $name, TriangleMesh $sheet, ThickenParameters $parameters, Progress $progress): TriangleMesh
    {
        $half = 0.5 * $parameters->thickness();
        $middle = $sheet->positions;
        if ($parameters->side !== 'both') {
            $by = $parameters->side === 'out' ? $half : -$half;
            foreach (Measure::vertexNormals($sheet->positions, $sheet->faces) as $o => $n) {
                $middle[$o] += $by * $n;
            }
        }
        $offset = OffsetSurface::of($middle, $sheet->faces, $half, fn (float $done) => $progress->advance('thickening', 0.8 * $done), true);
        [$positions, $faces] = [array_values($offset['positions']), array_values($offset['faces'])];
        $crossing = Intersections::pairs($positions, $faces);
        if ($crossing !== [] || min(Topology::twins($faces)) < 0) {
            $o = 3 * $faces[3 * ($crossing[0] ?? 0)];
            throw UnsuitableInput::because(sprintf('%s cannot be made %s thick: the surface would cross itself near (%.2f, %.2f, %.2f). Choose another thickness or side, or smooth the sheet there first.', $name, Format::mm($parameters->thickness()), $positions[$o], $positions[$o + 1], $positions[$o + 2]));
        }
        $progress->advance('thickening', 0.9);

        return self::withEvidence($sheet, $positions, $faces, $parameters);
    }

    /**
     * @param  list<float>  $positions
     * @param  list<int>  $faces
     */
    private static function withEvidence(TriangleMesh $sheet, array $positions, array $faces, ThickenParameters $parameters): TriangleMesh
    {
        $many = intdiv(count($faces), 3);
        $origin = array_fill(0, $many, TriangleMesh::MADE);
        $support = $sheet->support === [] ? [] : array_fill(0, intdiv(count($positions), 3), 0);
        if ($parameters->side !== 'both') {
            $face = $distanceSq = [];
            TriangleBvh::of($sheet->positions, $sheet->faces)->closest(Measure::centres($positions, $faces), $face, $distanceSq);
            for ($t = 0; $t < $many; $t++) {
                if ($distanceSq[$t] < (self::ON * $parameters->thickness()) ** 2 && abs(self::facing($positions, $faces, $t, $sheet->positions, $sheet->faces, $face[$t])) > self::FACING) {
                    $origin[$t] = $sheet->origin[$face[$t]] ?? TriangleMesh::MEASURED;
                    for ($c = 0; $support !== [] && $c < 3; $c++) {
                        $support[$faces[3 * $t + $c]] = $sheet->support[$sheet->faces[3 * $face[$t]]];
                    }
                }
            }
        }
        $mesh = TriangleMesh::fromFlat($positions, $faces, $support, $origin);

        return $mesh->withFaces(range(0, $many - 1));
    }

    /**
     * The cosine between two faces.
     *
     * @param  list<float>  $p
     * @param  list<int>  $f
     * @param  list<float>  $q
     * @param  list<int>  $g
     */
    private static function facing(array $p, array $f, int $t, array $q, array $g, int $u): float
    {
        $normal = function (array $p, array $f, int $t): array {
            [$a, $b, $c] = [3 * $f[3 * $t], 3 * $f[3 * $t + 1], 3 * $f[3 * $t + 2]];
            [$ux, $uy, $uz] = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
            [$vx, $vy, $vz] = [$p[$c] - $p[$a], $p[$c + 1] - $p[$a + 1], $p[$c + 2] - $p[$a + 2]];
            [$x, $y, $z] = [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];

            return [$x, $y, $z, sqrt($x * $x + $y * $y + $z * $z)];
        };
        [$a, $b, $c, $l] = $normal($p, $f, $t);
        [$x, $y, $z, $m] = $normal($q, $g, $u);

        return $l > 0.0 && $m > 0.0 ? ($a * $x + $b * $y + $c * $z) / ($l * $m) : 0.0;
    }

    /**
     * How far the sheet lies from where it should, measured to the new surface: on it, or within it by half the thickness.
     *
     * @return array{float, array{float, float, float}} mm at the worst place, and that place
     */
    private static function off(TriangleMesh $sheet, TriangleMesh $made, float $within): array
    {
        $face = $distanceSq = [];
        TriangleBvh::of($made->positions, $made->faces)->closest($sheet->positions, $face, $distanceSq);
        $used = array_fill_keys($sheet->faces, true);
        $worst = 0.0;
        $at = 0;
        foreach ($distanceSq as $v => $sq) {
            $off = abs(sqrt($sq) - $within);
            if ($off > $worst && isset($used[$v])) {
                [$worst, $at] = [$off, $v];
            }
        }

        return [$worst, [$sheet->positions[3 * $at], $sheet->positions[3 * $at + 1], $sheet->positions[3 * $at + 2]]];
    }
}
