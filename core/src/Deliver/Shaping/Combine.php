<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Algorithms\Field\OffsetSurface;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;

/** What `add-body`, `take-away`, `keep-common` and `clearance-cut` do alike: bodies combined with another, grown by a clearance if asked. */
final class Combine
{
    /**
     * @param  float  $clearance  mm
     * @param  string  $kind  of MeshBoolean
     * @param  array<int, string>|null  $on
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function with(Workpiece $workpiece, string $parameter, string $name, float $clearance, string $kind, ?string $body, ?array $on, Progress $progress): Result
    {
        $with = Choice::mesh($workpiece, $parameter, $name);
        $chosen = Choice::of($workpiece, $body, $on, $with);
        $tool = $with->placedMesh();
        $notes = [];
        if ($clearance > 0.0) {
            $tool = self::grown($with->name, $tool, $clearance, $notes, new PartProgress($progress, 0.0, 0.5));
        }

        return self::all($workpiece, $chosen, $with->name, array_map(fn () => $tool, $chosen), $kind, $kind === MeshBoolean::DIFFERENCE || $clearance > 0.0, $kind === MeshBoolean::UNION ? $with : null, $notes, new PartProgress($progress, 0.5, 1.0));
    }

    /**
     * @param  non-empty-array<string, Body>  $chosen  by id
     * @param  non-empty-array<string, TriangleMesh>  $tools  what each of them is combined with
     * @param  Body|null  $used  a body that becomes part of the others
     * @param  list<string>  $notes
     *
     * @throws UnsuitableInput
     */
    public static function all(Workpiece $workpiece, array $chosen, string $toolName, array $tools, string $kind, bool $isTool, ?Body $used, array $notes, Progress $progress): Result
    {
        $changed = $lines = [];
        [$before, $after] = [0.0, 0.0];
        foreach (array_values($chosen) as $k => $body) {
            $mesh = $body->placedMesh();
            $made = Combination::of($body->name, $mesh, $toolName, $tools[$body->id], $kind, $isTool, new PartProgress($progress, $k / count($chosen), ($k + 1) / count($chosen)));
            array_push($notes, ...$made->notes);
            $changed[$body->id] = $body->reshaped($made->mesh);
            [$was, $is] = [Measure::volume($mesh->positions, $mesh->faces), Measure::volume($made->mesh->positions, $made->mesh->faces)];
            $lines[] = sprintf('%s: %s %s', $body->name, Format::volume(abs($is - $was)), $is < $was ? 'taken away' : 'added');
            $before += $was;
            $after += $is;
        }
        $progress->advance('combining', 1.0);
        $bodies = array_map(fn (Body $body) => $changed[$body->id] ?? $body, array_filter($workpiece->bodies, fn (Body $body) => $body->id !== $used?->id));
        $result = $workpiece->withBodies(array_values($bodies));
        $faces = fn (array $of): int => array_sum(array_map(fn (Body $body) => $body->placedMesh()->faceCount(), $of));

        return new Result($result, implode(' · ', $lines), ['faces' => $faces($chosen), 'volume' => $before], ['faces' => $faces($changed), 'volume' => $after], $notes);
    }

    /**
     * @param  list<string>  $notes  (changed)
     *
     * @throws UnsuitableInput with the place, where the mesh is not closed or crosses itself
     */
    private static function grown(string $name, TriangleMesh $mesh, float $distance, array &$notes, Progress $progress): TriangleMesh
    {
        Combination::refuseOpen($name, $mesh);
        $offset = OffsetSurface::of($mesh->positions, $mesh->faces, $distance, fn (float $done) => $progress->advance('growing', $done));
        foreach (Topology::twins($offset['faces']) as $h => $twin) {
            if ($twin < 0) {
                $o = 3 * $offset['faces'][$h];
                throw UnsuitableInput::because(sprintf('No room of %s can be made about %s: its faces cross near (%.2f, %.2f, %.2f). Inspect and repair it first.', Format::mm($distance), $name, $offset['positions'][$o], $offset['positions'][$o + 1], $offset['positions'][$o + 2]));
            }
        }
        $off = OffsetSurface::spread($mesh->positions, $mesh->faces, $offset['positions'], $offset['faces'], $distance);
        $notes[] = sprintf('%s is grown by %s with round corners, right to %s at the worst place.', $name, Format::mm($distance), Format::mm($off));

        return TriangleMesh::fromFlat($offset['positions'], $offset['faces']);
    }

    /** @return Estimate of combining: two trees, the faces that meet, and a look through the result; of growing, the voxels. */
    public static function estimate(Workpiece $workpiece, float $clearance): Estimate
    {
        $faces = $workpiece->faceCount();

        return new Estimate(0.2 + 1.2e-5 * $faces + ($clearance > 0.0 ? 4.0 : 0.0), 60 + 1.2e-3 * $faces + ($clearance > 0.0 ? 250.0 : 0.0));
    }
}
