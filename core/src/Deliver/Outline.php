<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\PlaneCut;
use Emberstone\Core\Algorithms\Cutting\Silhouette;
use Emberstone\Core\Algorithms\Fitting\ArcChain;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\LookAlong;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * The outline of bodies as it is looked at them along a direction, with the openings that light falls through: of all of a body, or of what lies between two depths.
 *
 * Output    an artefact a body, of the kind of a section: curves in one plane square to the direction, where the outlined part begins. The body stays as it is.
 * Error     see Algorithms\Cutting\Silhouette and Algorithms\Fitting\ArcChain.
 *
 * @implements Operation<OutlineParameters>
 */
final class Outline implements Operation
{
    public static function about(): About
    {
        return new About('outline', Stage::Deliver, 'Outline', 'Draws the outer line of a body and its openings as seen along a direction.', 'meshes', OutlineParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 1.5e-5 * $workpiece->faceCount(), 60 + 1e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $meshes = array_values(array_filter($workpiece->meshes(), fn ($body) => $body->geometry instanceof TriangleMesh && $body->geometry->faces !== []));
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to outline: fuse the passes first, or bring in a mesh.');
        }
        $axis = LookAlong::of('along', $parameters->along, $workpiece->datums);
        $artefacts = $notes = [];
        $sum = ['curves' => 0, 'openings' => 0, 'length' => 0.0, 'area' => 0.0];
        foreach ($meshes as $k => $body) {
            $drawn = self::drawn($body->placedMesh(), $axis, $parameters, new PartProgress($progress, $k / count($meshes), ($k + 1) / count($meshes)));
            if ($drawn === null) {
                $notes[] = "$body->name does not lie between these depths.";

                continue;
            }
            if ($drawn['isOpen']) {
                $notes[] = "$body->name is not closed where a depth cuts it: what is missing there counts as an opening.";
            }
            $artefact = new Artefact("Outline of $body->name", "Outline of $body->name", SectionDrawing::KIND, ['planes' => [$drawn['plane']]], Placement::of(1.0, RigidTransform::identity()), $body->id);
            $artefacts[] = $artefact;
            foreach (SectionDrawing::figures($artefact) as $curve) {
                $sum = ['curves' => $sum['curves'] + 1, 'openings' => $sum['openings'] + ($curve['area'] < 0.0 ? 1 : 0), 'length' => $sum['length'] + $curve['length'], 'area' => $sum['area'] + $curve['area']];
            }
        }
        if ($artefacts === []) {
            throw UnsuitableInput::because(count($meshes) === 1 ? "{$meshes[0]->name} does not lie between these depths, seen $axis->name. Change From and To, or leave them empty." : "None of the bodies lies between these depths, seen $axis->name. Change From and To, or leave them empty.");
        }

        return new Result(
            $workpiece->withArtefacts([...$workpiece->artefacts, ...$artefacts]),
            sprintf('%s with %s, seen %s; %s covered', Format::many($sum['curves'] - $sum['openings'], 'outline'), Format::many($sum['openings'], 'opening'), $axis->name, Format::plain($sum['area'], 0).' mm²'),
            [], $sum, $notes,
        );
    }

    /** @return array{plane: array<string, mixed>, isOpen: bool}|null a plane of SectionDrawing; null where nothing lies between the depths */
    private static function drawn(TriangleMesh $mesh, AxisChoice $axis, OutlineParameters $parameters, Progress $progress): ?array
    {
        $normal = Vector3::scaled($axis->direction, -1.0);
        $right = LookAlong::right($axis->direction);
        $up = Vector3::cross($normal, $right);
        [$positions, $faces] = [$mesh->positions, $mesh->faces];
        $rims = [];
        $isOpen = false;
        // What is cut off leaves openings that were none; their lines go along as if they were closed.
        foreach (['from' => 1, 'to' => 0] as $which => $side) {
            $depth = $parameters->{$which};
            if ($depth !== null && $faces !== []) {
                $cut = PlaneCut::of($positions, $faces, Vector3::plus($axis->point, Vector3::scaled($axis->direction, $depth)), $axis->direction);
                [$positions, $faces] = [$cut->positions, $cut->faces[$side]];
                $edges = $cut->rim($side);
                if (! self::areClosed($edges)) {
                    $isOpen = true;

                    continue;
                }
                foreach ($edges as [$a, $b]) {
                    $rims[] = $which === 'from' ? [$a, $b] : [$b, $a];
                }
            }
        }
        if ($faces === []) {
            return null;
        }
        [$px, $py, $pz] = $axis->point;
        $seen = [];
        $nearest = INF;
        for ($o = 0, $n = count($positions); $o < $n; $o += 3) {
            [$x, $y, $z] = [$positions[$o] - $px, $positions[$o + 1] - $py, $positions[$o + 2] - $pz];
            $depth = $x * $axis->direction[0] + $y * $axis->direction[1] + $z * $axis->direction[2];
            array_push($seen, $x * $right[0] + $y * $right[1] + $z * $right[2], $x * $up[0] + $y * $up[1] + $z * $up[2], $depth);
            $nearest = min($nearest, $depth);
        }
        $point = Vector3::plus($axis->point, Vector3::scaled($axis->direction, $parameters->from ?? $nearest));
        $curves = [];
        foreach (Silhouette::of($seen, $faces, $rims, fn (float $done) => $progress->advance('outlining', $done)) as $loop) {
            $points = [];
            foreach ($loop as [$u, $v]) {
                for ($k = 0; $k < 3; $k++) {
                    $points[] = $point[$k] + $u * $right[$k] + $v * $up[$k];
                }
            }
            $curve = ['closed' => true, 'points' => $points];
            $curves[] = $parameters->fit === null ? $curve : $curve + ['pieces' => ArcChain::of(SectionDrawing::flat($points, $normal), true, $parameters->fit)];
        }

        return ['plane' => ['name' => "seen $axis->name", 'point' => $point, 'normal' => $normal, 'curves' => $curves], 'isOpen' => $isOpen];
    }

    /** @param  list<array{int, int}>  $edges */
    private static function areClosed(array $edges): bool
    {
        $ends = [];
        foreach ($edges as [$a, $b]) {
            $ends[$a] = ($ends[$a] ?? 0) + 1;
            $ends[$b] = ($ends[$b] ?? 0) - 1;
        }

        return array_filter($ends) === [];
    }
}
