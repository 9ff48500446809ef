<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Opens a round hole or a slot with round ends: through the body or to a depth, with a countersink if asked. A smaller or ragged opening there becomes that wide.
 *
 * Output    a closed, sound body; the wall is marked as made.
 * Error     corners of the wall lie on the cylinder; its flats within SimpleSolid::SAGITTA of it.
 *
 * @implements Operation<OpenHoleParameters>
 */
final class OpenHole implements Operation
{
    /** Lines along the axis on which the mouth of the hole is looked for: one in the middle, the others at its wall and half-way. */
    private const LINES = 16;

    /** How far the tool stands out of the body at an open end, as a share of the length of the hole: its end never lies on the surface. */
    private const OUT = 0.0517;

    public static function about(): About
    {
        return new About('open-hole', Stage::Deliver, 'Open a hole', 'Opens a round hole or a slot along an axis, or makes one that is there wider and true.', 'meshes', OpenHoleParameters::class, avoid: 'Not where the scanned hole is to stay as it was made: this makes a true one.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, 0.0);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $axis = AxisChoice::of('axis', $parameters->axis, $workpiece->datums);
        $way = Vector3::scaled($axis->direction, $parameters->reverse ? -1.0 : 1.0);
        $chosen = Choice::of($workpiece, $parameters->body, $parameters->on);
        $slot = self::slot($axis, $parameters);
        $tools = [];
        foreach ($chosen as $id => $body) {
            $mouth = self::reach($body->placedMesh(), $axis->point, $way, 0.5 * $parameters->diameter, $slot);
            if ($mouth === null) {
                throw UnsuitableInput::because("A hole of {$parameters->diameter} mm along $axis->name misses $body->name, or the opening there is wider already. Choose another axis or a larger diameter.");
            }
            $tools[$id] = self::tool($parameters, $axis->point, $way, $slot, ...$mouth);
        }
        $result = Combine::all($workpiece, $chosen, 'the hole', $tools, MeshBoolean::DIFFERENCE, true, null, [], $progress);
        $size = sprintf('Ø %g mm%s %s', $parameters->diameter, $parameters->slot === null ? '' : sprintf(', slot of %g mm,', $parameters->slot), $parameters->depth === null ? 'through' : sprintf('× %g mm', $parameters->depth));

        return new Result($result->workpiece, "$size · $result->headline", $result->before, $result->after + ['diameter' => $parameters->diameter], $result->notes);
    }

    /**
     * Where the body begins and ends along the axis, within the hole.
     *
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $way
     * @param  array{float, float, float}  $slot  from the axis to the middle of one end; 0 for a round hole
     * @return array{float, float}|null mm from the point along the way; null where there is nothing
     */
    private static function reach(TriangleMesh $mesh, array $point, array $way, float $radius, array $slot): ?array
    {
        $box = BoundingBox::of($mesh->positions);
        $far = $box->diagonal() + Vector3::length(Vector3::minus($box->centre(), $point)) + Vector3::length($slot);
        [$across, $beside] = Vector3::square($way);
        [$forth, $back] = [[], []];
        for ($k = 0; $k <= 2 * self::LINES; $k++) {
            $r = $k === 0 ? 0.0 : ($k <= self::LINES ? 1.0 : 0.5) * $radius;
            [$c, $s] = [$r * cos(2.0 * M_PI * $k / self::LINES), $r * sin(2.0 * M_PI * $k / self::LINES)];
            foreach (Vector3::length($slot) > 0.0 ? [-1.0, -0.5, 0.0, 0.5, 1.0] : [0.0] as $share) {
                $start = Vector3::plus(Vector3::plus($point, Vector3::scaled($slot, $share)), Vector3::plus(Vector3::scaled($across, $c), Vector3::scaled($beside, $s)));
                array_push($forth, ...Vector3::minus($start, Vector3::scaled($way, $far)), ...$way);
                array_push($back, ...Vector3::plus($start, Vector3::scaled($way, $far)), ...Vector3::scaled($way, -1.0));
            }
        }
        $bvh = TriangleBvh::of($mesh->positions, $mesh->faces);
        $face = $first = $last = [];
        $bvh->firstAlong($forth, $face, $first);
        $bvh->firstAlong($back, $face, $last);
        [$near, $end] = [min($first) - $far, $far - min($last)];
        // What a ray between those lines would miss: vertices in the hole.
        foreach (array_chunk($mesh->positions, 3) as $vertex) {
            $from = Vector3::minus($vertex, $point);
            $along = Vector3::dot($from, $way);
            $from = Vector3::minus($from, Vector3::scaled($way, $along));
            // From the nearest place on the line between the middles of both ends.
            $share = max(-1.0, min(1.0, Vector3::dot($from, $slot) / max(1e-300, Vector3::dot($slot, $slot))));
            if (Vector3::length(Vector3::minus($from, Vector3::scaled($slot, $share))) <= $radius) {
                [$near, $end] = [min($near, $along), max($end, $along)];
            }
        }

        return $near < $end ? [$near, $end] : null;
    }

    /**
     * From the axis to the middle of one end of a slot.
     *
     * @return array{float, float, float} mm; 0 for a round hole
     */
    private static function slot(AxisChoice $axis, OpenHoleParameters $parameters): array
    {
        $across = $axis->across();
        $angle = deg2rad($parameters->slotTurned);
        $way = Vector3::plus(Vector3::scaled($across, cos($angle)), Vector3::scaled(Vector3::cross($axis->direction, $across), sin($angle)));

        return Vector3::scaled($way, 0.5 * ($parameters->slot ?? 0.0));
    }

    /**
     * What is taken away.
     *
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $way
     * @param  array{float, float, float}  $slot  see slot()
     * @param  float  $from  where the body begins, mm from the point along the way
     * @param  float  $to  where it ends
     */
    private static function tool(OpenHoleParameters $parameters, array $point, array $way, array $slot, float $from, float $to): TriangleMesh
    {
        $out = self::OUT * max($to - $from, $parameters->diameter);
        $end = $parameters->depth === null ? $to + $out : $from + $parameters->depth;
        $radius = 0.5 * $parameters->diameter;
        $profile = [[$radius, $from - $out], [$radius, $end]];
        if ($parameters->countersink !== null) {
            $wide = 0.5 * $parameters->countersink;
            $profile = [[$wide + $out, $from - $out], [$radius, $from + $wide - $radius], [$radius, max($end, $from + $wide - $radius + 1e-3)]];
        }

        return SimpleSolid::slotted($profile, $point, $way, $slot);
    }
}
