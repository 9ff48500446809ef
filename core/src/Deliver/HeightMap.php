<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Surface\HeightRaster;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
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
 * The front, the back or both sides of bodies as a picture of heights: how near the surface is, pixel by pixel, as it is looked at along a direction.
 *
 * Output    an artefact a body (see HeightPictures). The body stays as it is.
 * Error     a height is that of the mesh at the middle of its pixel; stored in steps of at most a 65,534th of the range.
 *
 * @implements Operation<HeightMapParameters>
 */
final class HeightMap implements Operation
{
    /** Pixels across the larger side where nothing is said. */
    private const ACROSS = 1000;

    /** Pixels of one picture: 4,000 x 4,000. */
    private const MOST = 16_000_000;

    public static function about(): About
    {
        return new About('height-map', Stage::Deliver, 'Height map', 'Draws how near the surface is as a picture of grey values, for carving and embossing.', 'meshes', HeightMapParameters::class, avoid: 'Not for undercuts: one depth a pixel is all that it holds.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 1.5e-6 * $workpiece->faceCount(), 100 + 3e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $meshes = array_values(array_filter($workpiece->meshes(), fn ($body) => $body->geometry instanceof TriangleMesh && $body->geometry->faces !== []));
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to draw heights of: fuse the passes first, or bring in a mesh.');
        }
        $axis = LookAlong::of('along', $parameters->along, $workpiece->datums);
        $artefacts = $figures = [];
        foreach ($meshes as $k => $body) {
            $part = new PartProgress($progress, $k / count($meshes), ($k + 1) / count($meshes));
            $data = self::drawn($body->placedMesh(), $axis, $parameters, $part);
            $artefacts[] = new Artefact("Heights of $body->name", "Heights of $body->name", HeightPictures::KIND, $data, Placement::of(1.0, RigidTransform::identity()), $body->id);
            $figures[] = ['columns' => $data['columns'], 'rows' => $data['rows'], 'pixel' => $data['pixel'], 'deep' => max(array_map(fn (array $side) => $side['far'] - $side['near'], $data['sides']))];
        }
        $first = $figures[0];

        return new Result(
            $workpiece->withArtefacts([...$workpiece->artefacts, ...$artefacts]),
            sprintf('%s x %s pixels of %s, %s deep', Format::count($first['columns']), Format::count($first['rows']), Format::mm($first['pixel']), Format::mm($first['deep'])),
            [], ['pictures' => array_sum(array_map(fn (Artefact $one) => count($one->data['sides']), $artefacts)), 'columns' => $first['columns'], 'rows' => $first['rows'], 'deep' => $first['deep']],
        );
    }

    /**
     * @return array<string, mixed> see HeightPictures
     *
     * @throws InvalidParameter when the pixels are so small that there are too many
     */
    private static function drawn(TriangleMesh $mesh, AxisChoice $axis, HeightMapParameters $parameters, Progress $progress): array
    {
        $right = LookAlong::right($axis->direction);
        $down = Vector3::cross($axis->direction, $right);
        $q = [];
        $least = [INF, INF];
        $most = [-INF, -INF];
        for ($o = 0, $n = count($mesh->positions); $o < $n; $o += 3) {
            $at = [$mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2]];
            $x = Vector3::dot($at, $right);
            $y = Vector3::dot($at, $down);
            array_push($q, $x, $y, Vector3::dot($at, $axis->direction));
            [$least, $most] = [[min($least[0], $x), min($least[1], $y)], [max($most[0], $x), max($most[1], $y)]];
        }
        $pixel = $parameters->pixel ?? max($most[0] - $least[0], $most[1] - $least[1]) / self::ACROSS;
        if ($pixel <= 0.0) {
            throw UnsuitableInput::because('Seen that way the body has no width.');
        }
        [$columns, $rows] = [max(1, (int) ceil(($most[0] - $least[0]) / $pixel - 1e-9)), max(1, (int) ceil(($most[1] - $least[1]) / $pixel - 1e-9))];
        if ($columns * (float) $rows > self::MOST) {
            throw InvalidParameter::of('pixel', sprintf('gives %s x %s pixels; make it larger: %s at least', Format::count($columns), Format::count($rows), Format::mm($pixel * sqrt($columns * $rows / self::MOST))));
        }
        // The middle of the picture is that of the body.
        $corner = [0.5 * ($least[0] + $most[0] - $columns * $pixel), 0.5 * ($least[1] + $most[1] - $rows * $pixel)];
        for ($o = 0; $o < $n; $o += 3) {
            $q[$o] = ($q[$o] - $corner[0]) / $pixel;
            $q[$o + 1] = ($q[$o + 1] - $corner[1]) / $pixel;
        }
        $depths = HeightRaster::of($q, $mesh->faces, $columns, $rows, fn (float $done) => $progress->advance('drawing heights', 0.8 * $done));
        $sides = [];
        foreach (['front' => 'near', 'back' => 'far'] as $side => $which) {
            if ($parameters->side === $side || $parameters->side === 'both') {
                $sides[] = self::side($side, $depths[$which], $columns);
            }
        }
        $progress->advance('drawing heights', 1.0);

        return [
            'columns' => $columns, 'rows' => $rows, 'pixel' => $pixel, 'direction' => $axis->direction, 'right' => $right, 'down' => $down,
            'origin' => Vector3::plus(Vector3::scaled($right, $corner[0]), Vector3::scaled($down, $corner[1])), 'sides' => $sides,
        ];
    }

    /**
     * @param  list<float>  $depths
     * @return array{side: string, near: float, far: float, values: string}
     */
    private static function side(string $side, array $depths, int $columns): array
    {
        // The back is seen from behind: as in a mirror, and what lies farther along is nearer.
        if ($side === 'back') {
            $depths = array_merge(...array_map(array_reverse(...), array_chunk($depths, max(1, $columns))));
        }
        $known = array_filter($depths, is_finite(...));
        if ($known === []) {
            throw UnsuitableInput::because('No middle of a pixel lies on the body: make the pixels smaller.');
        }
        [$near, $far] = $side === 'back' ? [-max($known), -min($known)] : [min($known), max($known)];
        $step = HeightPictures::step($near, $far);
        $values = array_map(fn (float $depth) => is_finite($depth) ? HeightPictures::DEEPEST + (int) round(($far - ($side === 'back' ? -$depth : $depth)) / $step) : 0, $depths);

        return ['side' => $side, 'near' => $near, 'far' => $far, 'values' => base64_encode(Packed::shorts($values))];
    }
}
