<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Field\DualSurface;
use Emberstone\Core\Algorithms\Field\Gaps;
use Emberstone\Core\Algorithms\Field\Sharpen;
use Emberstone\Core\Algorithms\Field\Splat;
use Emberstone\Core\Algorithms\Field\Volume;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\PatchShape;
use Emberstone\Core\Rims\RimClosing;

/**
 * Makes one surface from all passes: oriented points into a sparse volume of distances, its zero surface, then the vertices
 * onto the planes of the points around them.
 *
 * Source    see Algorithms/Field: implicit moving least squares, dual surface with one vertex a loop, quadratic error of tangent planes.
 * Input     placed passes; sensor origins turn the normals, else they are made consistent.
 * Keeps     edges as sharp as the voxel allows.   Gives up  walls thinner than two voxels.
 * Gaps      closed where asked for, by patches or inside the volume (Algorithms/Field/Gaps), whichever takes less surface (VolumeOrPatch).
 * Output    an oriented manifold, open where nothing was seen and nothing else is asked for; support per vertex is the number of passes.
 *
 * @implements Operation<FuseParameters>
 */
final class Fuse implements MakesNew, Operation
{
    /** MB of the whole volume from which a surface is made in bricks, where the budget would bear more, too: in parts it is no slower. */
    private const WHOLE_MB = 1500.0;

    /** MB that bricks take, with all their processes, where the budget would bear more. */
    private const BRICKS_MB = 2000.0;

    /** Bytes a face of the finished surface, while its folds are taken out. */
    private const BYTES_A_FACE = 600.0;

    /** Points a cell below which surfaces break up, and above which finer cells would show more; and what suits. */
    private const SPARSE = 3.0;

    private const PLENTY = 30.0;

    private const SUITS = 8.0;

    /** A voxel counts as seen when even one grazing point stood near. */
    public const LEAST_WEIGHT = 0.03;

    /** What the voxels of gaps take that are closed, about: 200 bytes each, some of Gaps::MOST_TOGETHER at a time. */
    private const GAPS_MB = 25.0;

    /** So many holes that stay open are told with their width. */
    private const TOLD = 4;

    /** Reach of a point in the volume, in voxels: over sqrt(3), so that all corners of a crossed cell are seen where points are sparse too. */
    private const REACH = 2.5;

    public static function about(): About
    {
        return new About('fuse', Stage::Fuse, 'Fuse', 'Makes one mesh from all passes.', 'passes', FuseParameters::class, avoid: 'Not before the passes are registered: look at the pairs first. For patchy data take Rebuild.');
    }

    /**
     * @param  FuseParameters  $parameters
     * @return array{string}
     */
    public static function makes(object $parameters, ?array $on): array
    {
        return [$parameters->name ?? sprintf('Fused, %.3g mm', $parameters->voxel)];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $points = $workpiece->pointCount();
        $area = MergedPasses::area($workpiece);
        $voxel = $parameters->voxel;
        // Two a cell that the surface passes; the area was found from such cells too.
        $faces = 3.0 * $area / ($voxel * $voxel);
        $memory = self::isWhole($points, $area, $parameters) ? self::wholeMb($points, $area, $voxel) + ($parameters->closeHoles === 'none' ? 0.0 : self::GAPS_MB) : max(self::bricksMb($workpiece), self::BYTES_A_FACE * $faces / 1e6);
        $refusal = null;
        $budget = Memory::budgetMb();
        if (self::BYTES_A_FACE * $faces / 1e6 > $budget) {
            $least = $voxel * sqrt(self::BYTES_A_FACE * $faces / 1e6 / $budget);
            // Two digits, rounded up: what is named must fit.
            $unit = 10.0 ** (floor(log10($least)) - 1.0);
            $refusal = sprintf('At a voxel of %.3g mm the surface has some %s faces, which take %.1f GB; here it may take %.1f: the smallest that fits here is %.2g mm.', $voxel, Format::count((int) $faces), self::BYTES_A_FACE * $faces / 1e9, $budget / 1000.0, ceil($least / $unit) * $unit);
        }

        return new Estimate(0.5 + 2.2e-5 * $points + 1.2e-5 * $faces, $memory, (int) $faces, $refusal, self::advice($points, $area, $voxel));
    }

    /** @param  float  $area  of the surface that the points lie on, mm2 */
    private static function advice(int $points, float $area, float $voxel): string
    {
        $each = $points * $voxel * $voxel / max(1e-9, $area);
        $keeps = sprintf('Keeps walls and gaps from %.2g mm on. ', 2.0 * $voxel);

        return $keeps.match (true) {
            $each < self::SPARSE => sprintf('The data give %.1f points a cell: expect holes and noise; %.2g mm would suit them.', $each, $voxel * sqrt(self::SUITS / max(1e-9, $each))),
            $each > self::PLENTY => sprintf('The data give %.0f points a cell; they would bear %.2g mm.', $each, $voxel * sqrt(self::SUITS / $each)),
            default => sprintf('The data give %.0f points a cell, which suits them.', $each),
        };
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $refusal = $this->estimate($workpiece, $parameters)->refusal;
        if ($refusal !== null) {
            throw UnsuitableInput::because($refusal);
        }
        $widest = $parameters->widestGap();
        $isSmooth = true;
        $making = new PartProgress($progress, 0.0, 0.85);
        $isWhole = self::isWhole($workpiece->pointCount(), MergedPasses::area($workpiece), $parameters);
        $surface = $isWhole ? $this->whole($workpiece->passes, $parameters, $isSmooth, $making) : $this->inBricks($workpiece->passes, $parameters, $making);
        $backed = FreeSpace::backed($surface, $workpiece->passes, $parameters->voxel, new PartProgress($progress, 0.85, 0.9));
        $carved = $surface->faceCount() - count($backed);
        $surface = $carved === 0 ? $surface : $surface->withFaces($backed);
        $notes = $carved === 0 ? [] : [Format::count($carved).' faces in space that other passes looked through were taken off.'];
        $body = Body::of(self::makes($parameters, null)[0], $surface);
        if ($widest !== null) {
            [$body, $closed] = self::patched($body, $widest, $isSmooth, new PartProgress($progress, 0.9, 1.0));
            $notes = [...$notes, ...($isWhole ? [] : ['The volume was too large to be held whole: gaps are closed by patches alone.']), ...$closed, ...($isSmooth ? [] : ['Some of what was closed is not as smooth as it should be: what is around it gives no smooth surface. Look at it, or leave holes open here and close them in Mend.'])];
        }
        $result = $workpiece->withBodies([...$workpiece->bodies, $body]);
        $faces = $result->faceCount() - $workpiece->faceCount();
        $progress->advance('done', 1.0);

        return new Result($result, sprintf('%.3g mm · %s faces', $parameters->voxel, Format::count($faces)), ['points' => $workpiece->pointCount()], ['faces' => $faces, 'voxel' => $parameters->voxel], $notes, $isSmooth ? Outcome::Reached : Outcome::StoppedEarly);
    }

    /**
     * @param  list<Pass>  $passes
     * @param  bool  $isSmooth  set to false where what closes a gap could not be smoothed
     */
    private function whole(array $passes, FuseParameters $parameters, bool &$isSmooth, Progress $progress): TriangleMesh
    {
        $points = MergedPasses::of($passes, new PartProgress($progress, 0.0, 0.4));

        return $this->surface($points, $parameters->voxel, $parameters->detail, $parameters->widestGap(), $isSmooth, new PartProgress($progress, 0.4, 1.0));
    }

    /** @param  list<Pass>  $passes */
    private function inBricks(array $passes, FuseParameters $parameters, Progress $progress): TriangleMesh
    {
        $surface = BrickFusion::surface($passes, $parameters->voxel, self::REACH * $parameters->voxel, FuseParameters::DETAILS[$parameters->detail], min(self::BRICKS_MB, Memory::budgetMb()), new PartProgress($progress, 0.0, 0.85));
        if ($surface['quads'] === []) {
            throw self::tooThin($parameters->voxel);
        }

        return self::mesh($surface, $surface['positions'], new PartProgress($progress, 0.85, 1.0));
    }

    private static function tooThin(float $voxel): UnsuitableInput
    {
        return UnsuitableInput::because(sprintf('At a voxel of %.3g mm the points are too thin to carry a surface; choose a larger voxel.', $voxel));
    }

    /**
     * Gaps get patches, but where the volume has closed them better. Pieces of which half would be made up are shreds, closed onto themselves, and go.
     *
     * @param  bool  $isSmooth  set to false where a patch came out plainer than asked for
     * @return array{Body, list<string>} and what was closed, in words
     */
    private static function patched(Body $body, float $widest, bool &$isSmooth, Progress $progress): array
    {
        $closed = $body->geometry;
        assert($closed instanceof TriangleMesh);
        $measured = array_keys(array_filter($closed->origin, fn (int $mark) => $mark !== TriangleMesh::CLOSED));
        $mesh = self::filled($closed->withFaces($measured), $widest, $isSmooth, new PartProgress($progress, 0.0, 0.5));
        $better = VolumeOrPatch::better($closed, $mesh);
        $mesh = $better === [] ? $mesh : self::filled($closed->withFaces([...$measured, ...$better]), $widest, $isSmooth, new PartProgress($progress, 0.5, 1.0));
        $pieces = Topology::pieces(Topology::twins($mesh->faces));
        $made = $all = array_fill(0, $pieces['count'], 0);
        foreach ($pieces['of'] as $t => $piece) {
            $all[$piece]++;
            $made[$piece] += ($mesh->origin[$t] ?? TriangleMesh::MEASURED) === TriangleMesh::MEASURED ? 0 : 1;
        }
        // A sheet seen from one side alone is no shred, whatever closes it.
        $largest = array_search(max([0, ...$all]), $all, true);
        $mesh = $mesh->withFaces(array_keys(array_filter($pieces['of'], fn (int $piece) => $piece === $largest || 2 * $made[$piece] < $all[$piece])));
        $body = $body->reshaped($mesh);
        $shares = $mesh->madeUp(Measure::areas($mesh->positions, $mesh->faces));
        $words = [];
        foreach ([TriangleMesh::CLOSED => 'closed in the volume', TriangleMesh::FILLED => 'patched'] as $mark => $how) {
            $share = 100.0 * ($shares[TriangleMesh::MADE_UP[$mark]] ?? 0.0);
            if ($share > 0.0) {
                $words[] = sprintf($share < 0.1 ? '%.2f %% of the area is %s' : '%.1f %% of the area is %s', $share, $how);
            }
        }
        $notes = [$words === [] ? 'There was no hole of that size.' : implode(', ', $words).'.'];
        $left = ['wider and left open' => [], 'not to be closed by a patch' => []];
        foreach (BoundaryLoops::of($mesh)->widestFirst() as $hole) {
            $left[$hole['diameter'] > $widest ? 'wider and left open' : 'not to be closed by a patch'][] = Format::mm($hole['diameter']);
        }
        foreach (array_filter($left) as $why => $widths) {
            $more = count($widths) > self::TOLD ? ' and '.(count($widths) - self::TOLD).' narrower ones' : '';
            $notes[] = (count($widths) === 1 ? '1 hole is ' : count($widths).' holes are ')."$why: ".implode(', ', array_slice($widths, 0, self::TOLD)).$more.'.';
        }

        return [$body, $notes];
    }

    /** With patches over all rims up to a width. */
    private static function filled(TriangleMesh $mesh, float $widest, bool &$isSmooth, Progress $progress): TriangleMesh
    {
        $wanted = fn (array $rims, array $positions): array => array_fill_keys(array_keys(array_filter(BoundaryLoops::along($rims, $positions)->holes, fn (array $hole) => $hole['diameter'] <= $widest)), true);
        $closing = RimClosing::of($mesh, PatchShape::of('tangent'), $wanted, $progress);
        $isSmooth = $isSmooth && $closing->plainer === 0;

        return $closing->mesh;
    }

    /** @param  bool  $isSmooth  set to false where what closes a gap could not be smoothed */
    private function surface(MergedPasses $points, float $voxel, string $detail, ?float $widest, bool &$isSmooth, Progress $progress): TriangleMesh
    {
        $radius = self::REACH * $voxel;
        $points = $points->withoutLonePoints($radius);
        [$all, $normals] = [$points->positions, $points->normals];
        $box = BoundingBox::of($all);
        $volume = Volume::around($box->min, $box->max, $voxel);
        Splat::allocate($volume, $all, $radius);
        $bends = Splat::bends($volume, $all, $normals);
        self::fill($volume, $points, $bends, $radius, new PartProgress($progress, 0.0, 0.5));
        $surface = DualSurface::extract($volume);
        $made = [];
        if ($widest !== null) {
            [$surface, $made] = Gaps::closed($volume, $surface, $widest, fn (float $done) => $progress->advance('gaps', 0.55 + 0.1 * $done));
        }
        $corner = [$volume->x0, $volume->y0, $volume->z0];
        unset($volume);
        $progress->advance('surface', 0.65);
        if ($surface['quads'] === []) {
            throw self::tooThin($voxel);
        }
        $share = FuseParameters::DETAILS[$detail];
        $p = $surface['positions'];
        [$sharp, $evidence] = $this->sharpened($surface, $all, $normals, $points->flat, $bends, $voxel, $corner, new PartProgress($progress, 0.65, 0.95));
        foreach ($share > 0.0 ? $sharp : [] as $i => $x) {
            $p[$i] += $share * ($x - $p[$i]);
        }
        foreach ($evidence as $v => $word) {
            // Where points stand near, it is their surface after all.
            $surface['support'][$v] = $word === 0 && isset($made[$v]) ? 0 : $surface['support'][$v] | $word;
        }
        if ($made !== []) {
            $isSmooth = Gaps::smooth($p, Sharpen::triangles($surface['quads'], $p), $surface['support'], fn () => $progress->advance('gaps', 0.95));
        }
        $mesh = self::mesh($surface, $p, new PartProgress($progress, 0.95, 1.0));
        if ($widest === null) {
            return $mesh;
        }
        $origin = [];
        for ($h = 0, $n = count($mesh->faces); $h < $n; $h += 3) {
            $origin[] = Evidence::passes($mesh->support[$mesh->faces[$h]]) === 0 || Evidence::passes($mesh->support[$mesh->faces[$h + 1]]) === 0 || Evidence::passes($mesh->support[$mesh->faces[$h + 2]]) === 0 ? TriangleMesh::CLOSED : TriangleMesh::MEASURED;
        }

        return TriangleMesh::fromFlat($mesh->positions, $mesh->faces, $mesh->support, $origin);
    }

    /**
     * Slab by slab, spread over the cores.
     *
     * @param  list<float>  $bends
     */
    private static function fill(Volume $volume, MergedPasses $points, array $bends, float $radius, Progress $progress): void
    {
        [$bits, $ends] = Splat::sets($points->counts);
        $tasks = [];
        foreach (Splat::slabs($volume, Cores::count()) as [$from, $to]) {
            $tasks[] = function () use ($volume, $points, $bends, $bits, $ends, $radius, $from, $to): string {
                [$distance, $sets] = Splat::slab($volume, $points->positions, $points->normals, $bends, $points->quality, $bits, $ends, $radius, self::LEAST_WEIGHT, $from, $to);

                return Packed::doubles($distance).implode('', array_map(Packed::longs(...), $sets));
            };
        }
        $sets = intdiv(count($points->counts) - 1, Volume::PASSES_A_SET) + 1;
        $parts = array_fill(0, 1 + $sets, '');
        foreach (Fork::map($tasks, Cores::count(), $progress, 'volume') as $slab) {
            foreach ($slab === '' ? [] : str_split($slab, max(1, intdiv(strlen($slab), 1 + $sets))) as $k => $part) {
                $parts[$k] .= $part;
            }
        }
        $volume->fill(Packed::toDoubles($parts[0]), array_map(Packed::toLongs(...), array_slice($parts, 1)));
    }

    /**
     * The mesh of a surface's quads, every vertex of one sheet only.
     *
     * @param  array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, ...}  $surface
     * @param  array<int, float>  $p  where its vertices are by now
     */
    public static function mesh(array $surface, array $p, Progress $progress): TriangleMesh
    {
        $faces = Sharpen::triangles($surface['quads'], $p);
        $support = $surface['support'];
        Topology::splitFans($p, $faces, $support);
        $progress->advance('surface', 0.4);
        Untangle::run($p, $faces, breathe: fn (float $done) => $progress->advance('surface', 0.4 + 0.6 * $done));
        $progress->advance('surface', 1.0);

        return TriangleMesh::fromFlat($p, $faces, $support)->withFaces(range(0, intdiv(count($faces), 3) - 1));
    }

    /**
     * The vertices on the planes of the points around them, and what these say of them; spread over the cores.
     *
     * @param  array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}  $surface
     * @param  array<int, float>  $all
     * @param  array<int, float>  $normals
     * @param  array<int, float>  $quality
     * @param  list<float>  $bends
     * @param  array{float, float, float}  $corner  of the volume
     * @return array{list<float>, list<int>} see Sharpen::project()
     */
    private function sharpened(array $surface, array $all, array $normals, array $quality, array $bends, float $voxel, array $corner, Progress $progress): array
    {
        $grid = Sharpen::grid($all, $voxel);
        [$n, $q, $bent] = Sharpen::inSlots($grid, $normals, $quality, $bends);
        $parts = 4 * Cores::count();
        $size = 3 * (intdiv(count($surface['positions']), 3 * $parts) + 1);
        $tasks = [];
        for ($from = 0; $from < count($surface['positions']); $from += $size) {
            $tasks[] = function () use ($surface, $from, $size, $voxel, $grid, $n, $q, $bent, $corner): string {
                $p = array_slice($surface['positions'], $from, $size);
                $evidence = Sharpen::project($p, array_slice($surface['cells'], $from, $size), $voxel, $grid, $n, $q, $bent, $corner);

                return Packed::doubles($p).Packed::longs($evidence);
            };
        }
        $places = $evidence = '';
        foreach (Fork::map($tasks, Cores::count(), $progress, 'edges') as $part) {
            // Four numbers of eight bytes a vertex: its three coordinates first.
            $places .= substr($part, 0, 3 * intdiv(strlen($part), 4));
            $evidence .= substr($part, 3 * intdiv(strlen($part), 4));
        }

        return [Packed::toDoubles($places), Packed::toLongs($evidence)];
    }

    /** Whether the volume is held whole: what is small is, and where gaps are to be closed in it what fits. */
    private static function isWhole(int $points, float $area, FuseParameters $parameters): bool
    {
        return self::wholeMb($points, $area, $parameters->voxel) <= ($parameters->closeHoles === 'none' ? min(self::WHOLE_MB, Memory::budgetMb()) : Memory::budgetMb());
    }

    /** Of the two that need most the larger: normals and weights of all points, or the volume with the surface in it, which goes with the voxels that the surface passes. */
    private static function wholeMb(int $points, float $area, float $voxel): float
    {
        return 25.0 + max(400.0 * $points, 60.0 * $points + 3700.0 * $area / ($voxel * $voxel)) / 1e6;
    }

    private static function bricksMb(Workpiece $workpiece): float
    {
        return min(Memory::budgetMb(), max(self::BRICKS_MB, BrickFusion::BYTES_TO_ORIENT * Cores::count() * max([0, ...array_map(fn (Pass $pass) => $pass->keptCount(), $workpiece->passes)]) / 1e6));
    }
}
