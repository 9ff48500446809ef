<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\PlaneSection;
use Emberstone\Core\Algorithms\Fitting\ArcChain;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\PlaneChoice;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * The curves in which planes meet bodies: by one plane, by several side by side, or by several around an axis, each by itself or as their mean.
 *
 * Output    an artefact a body; curves of a closed body are closed. The body stays as it is.
 * Error     see Algorithms\Cutting\PlaneSection and Algorithms\Fitting\ArcChain.
 *
 * @implements Operation<SectionParameters>
 */
final class Section implements Operation
{
    public static function about(): About
    {
        return new About('section', Stage::Deliver, 'Section', 'Draws the curves in which planes meet a body, as a drawing to hand over.', 'meshes', SectionParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        // Planes around an axis each face another way.
        $rounds = match (true) {
            $parameters->around === null => 1,
            $parameters->mean => HalfSection::planes($parameters->count),
            default => $parameters->count,
        };

        return new Estimate(0.1 + 1e-6 * $rounds * $workpiece->faceCount(), 40 + 1.5e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $meshes = $workpiece->meshes();
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to draw a section of: fuse the passes first, or bring in a mesh.');
        }
        $axis = $parameters->mean ? AxisChoice::of('around', $parameters->around ?? '', $workpiece->datums) : null;
        $planes = $axis === null ? self::planes($parameters, $meshes, $workpiece) : [PlaneChoice::through($axis, $axis->across(), 0.0)];
        $artefacts = $notes = [];
        $sum = ['curves' => 0, 'open' => 0, 'length' => 0.0, 'area' => 0.0];
        foreach ($meshes as $k => $body) {
            $mesh = $body->placedMesh();
            $drawn = $axis === null ? self::drawn($mesh, $planes, $parameters->fit) : HalfSection::drawn($mesh, $axis, $parameters->count, $parameters->fit);
            $progress->advance('drawing sections', ($k + 1) / count($meshes));
            $drawn = $parameters->dimensions ? array_map(fn (array $plane) => $plane + ['dimensions' => SectionDimensions::of($plane)], $drawn) : $drawn;
            $artefact = new Artefact("Section of $body->name", "Section of $body->name", SectionDrawing::KIND, ['planes' => $drawn], Placement::of(1.0, RigidTransform::identity()), $body->id);
            $figures = SectionDrawing::figures($artefact);
            if ($figures === []) {
                count($meshes) === 1 || $notes[] = "$body->name is met by no plane.";

                continue;
            }
            $artefacts[] = $artefact;
            if ($parameters->mean) {
                $spread = $drawn[0]['spread'] ?? ['rms' => 0.0, 'max' => 0.0];
                $sum = ['spread' => max($sum['spread'] ?? 0.0, $spread['rms'])] + $sum;
                $notes[] = sprintf('%s differs by %s all around (standard deviation across the profile), %s at most.', $body->name, Format::mm($spread['rms']), Format::mm($spread['max']));
            }
            $open = count(array_filter($figures, fn (array $curve) => ! $curve['closed']));
            $open === 0 || $parameters->mean || $notes[] = sprintf('%s of %s %s open: the body is not closed there.', Format::many($open, 'curve'), $body->name, $open === 1 ? 'is' : 'are');
            $sum = array_intersect_key($sum, ['spread' => 1]) + ['curves' => $sum['curves'] + count($figures), 'open' => $sum['open'] + $open, 'length' => $sum['length'] + array_sum(array_column($figures, 'length')), 'area' => $sum['area'] + array_sum(array_column($figures, 'area'))];
        }
        if ($artefacts === []) {
            throw UnsuitableInput::because(sprintf('%s meets no body. Shift it, or choose another.', count($planes) === 1 ? ucfirst($planes[0]->name) : 'None of the '.count($planes).' planes'));
        }

        return new Result(
            $workpiece->withArtefacts([...$workpiece->artefacts, ...$artefacts]),
            sprintf('%s %s, %s long', Format::many($sum['curves'], 'curve'), match (true) {
                $axis !== null => "of the mean all around $axis->name",
                count($planes) === 1 => "at {$planes[0]->name}",
                default => 'at '.count($planes).' planes',
            }, Format::mm($sum['length'])),
            [], $sum, $notes,
        );
    }

    /**
     * @param  non-empty-list<Body>  $meshes
     * @return non-empty-list<PlaneChoice>
     */
    private static function planes(SectionParameters $parameters, array $meshes, Workpiece $workpiece): array
    {
        if ($parameters->around !== null) {
            $axis = AxisChoice::of('around', $parameters->around, $workpiece->datums);
            // Where the plane at 0 degrees lies.
            $across = $axis->across();

            return array_map(fn (int $k) => PlaneChoice::through($axis, $across, 180.0 * $k / $parameters->count), range(0, $parameters->count - 1));
        }
        $plane = PlaneChoice::of('plane', $parameters->plane ?? '', $workpiece->datums);
        if ($parameters->count === 1 || $parameters->spacing !== null) {
            return array_map(fn (int $k) => $plane->shifted($parameters->shift + $k * (float) $parameters->spacing), range(0, $parameters->count - 1));
        }
        // Spread over what there is along the normal, the first and the last half a spacing from its ends.
        $low = INF;
        $high = -INF;
        foreach ($meshes as $body) {
            $positions = $body->placed()->positions;
            for ($o = 0, $n = count($positions); $o < $n; $o += 3) {
                $height = ($positions[$o] - $plane->point[0]) * $plane->normal[0] + ($positions[$o + 1] - $plane->point[1]) * $plane->normal[1] + ($positions[$o + 2] - $plane->point[2]) * $plane->normal[2];
                $low = min($low, $height);
                $high = max($high, $height);
            }
        }

        return array_map(fn (int $k) => $plane->shifted($parameters->shift + $low + ($high - $low) * ($k + 0.5) / $parameters->count), range(0, $parameters->count - 1));
    }

    /**
     * @param  non-empty-list<PlaneChoice>  $planes
     * @return list<array{name: string, point: array{float, float, float}, normal: array{float, float, float}, curves: list<array{closed: bool, points: list<float>, pieces?: list<array{int, float}>}>}>
     */
    private static function drawn(TriangleMesh $mesh, array $planes, ?float $fit): array
    {
        $drawn = [];
        // Planes that face one way are looked for together.
        foreach ($planes as $k => $plane) {
            $groups[serialize($plane->normal)][] = $k;
        }
        foreach ($groups as $group) {
            $normal = $planes[$group[0]]->normal;
            $levels = array_map(fn (int $k) => Vector3::dot($planes[$k]->point, $normal), $group);
            asort($levels);
            $curves = (new PlaneSection($mesh->positions, $mesh->faces, $normal))->at(array_values($levels));
            foreach (array_keys($levels) as $place => $k) {
                $plane = $planes[$group[$k]];
                $drawn[$group[$k]] = ['name' => $plane->name, 'point' => $plane->point, 'normal' => $plane->normal, 'curves' => $fit === null ? $curves[$place] : array_map(
                    fn (array $curve) => $curve + ['pieces' => ArcChain::of(SectionDrawing::flat($curve['points'], $plane->normal), $curve['closed'], $fit)], $curves[$place],
                )];
            }
        }
        ksort($drawn);

        return array_values($drawn);
    }
}
