<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mend\Kernel\Intersections;
use Emberstone\Core\Mend\Kernel\Tidy;
use Emberstone\Core\Mend\Kernel\Untangle;
use Emberstone\Core\Mesh\Kernel\Measure;
use Emberstone\Core\Mesh\Kernel\Topology;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Removes faults, family by family, and looks again until none is left or nothing more helps.
 *
 * Source    crossing triangles: evened out (Kernel/Untangle), else cut away with a ring around them and filled (after Attene 2010).
 * Keeps     faces without a fault, where no neighbour has one.
 *
 * @implements Operation<RepairParameters>
 */
final class Repair implements Operation
{
    private const ROUNDS = 3;

    /** A loose piece with less than this share of the largest piece's area is no part of the object. */
    private const LOOSE = 0.01;

    public static function about(): About
    {
        return new About('repair', Stage::Mend, 'Repair', 'Removes faults: doubles, slivers, faces the wrong way round, crossings, spikes, loose pieces, holes.', 'meshes', RepairParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + 5e-5 * $workpiece->faceCount(), 80 + 1e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $before = $after = array_fill_keys(RepairParameters::FAULTS, 0);
        $result = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$before, &$after): TriangleMesh {
            $counts = $this->counts($mesh, $parameters);
            foreach ($counts as $fault => $count) {
                $before[$fault] += $count;
            }
            for ($round = 0; $round < self::ROUNDS && array_sum($counts) > 0; $round++) {
                $progress->advance('repairing', ($round + 0.1) / self::ROUNDS);
                $mesh = $this->once($mesh, $counts);
                $counts = $this->counts($mesh, $parameters);
            }
            foreach ($counts as $fault => $count) {
                $after[$fault] += $count;
            }
            $progress->advance('repairing', 1.0);

            return $mesh;
        }, $progress);
        $before = array_filter($before);
        $left = array_filter($after);
        $notes = $left === [] ? [] : ['Left: '.implode(', ', array_map(fn (string $fault, int $count) => "$count ".self::words($fault), array_keys($left), $left)).'. Cut the place away and fill it.'];

        return new Result(
            $result, array_sum($before).' → '.array_sum($left).' faults', $before, $left + array_fill_keys(array_keys($before), 0), $notes,
            $left === [] ? Outcome::Reached : Outcome::StoppedEarly,
        );
    }

    private static function words(string $fault): string
    {
        return strtolower((string) preg_replace('/[A-Z]/', ' $0', $fault));
    }

    /** @return array<string, int> faults of the wanted families; the rims, not the edges, of openings */
    private function counts(TriangleMesh $mesh, RepairParameters $parameters): array
    {
        $report = Inspection::of($mesh);
        $counts = ['openEdges' => count($report->holes), 'necks' => $parameters->wants('necks') ? count(Tidy::necks($mesh->positions, $mesh->faces)) : 0, 'pieces' => count($this->loose($mesh))] + $report->faults;
        // A closed surface that looks inwards is as wrong as two neighbours that disagree.
        $counts['inconsistentEdges'] += $report->closed && $report->volume < 0.0 ? 1 : 0;

        return array_filter($counts, fn (string $fault) => $parameters->wants($fault), ARRAY_FILTER_USE_KEY);
    }

    /** @param  array<string, int>  $counts  what there is to do; what one family uncovers for another is done in the next round */
    private function once(TriangleMesh $mesh, array $counts): TriangleMesh
    {
        if (($counts['duplicateFaces'] ?? 0) > 0) {
            $mesh = $this->narrowed($mesh, Tidy::withoutDuplicates($mesh->faces));
        }
        if (($counts['degenerateFaces'] ?? 0) > 0) {
            $faces = $mesh->faces;
            $keep = Tidy::withoutDegenerates($mesh->positions, $faces, 1e-7 * BoundingBox::of($mesh->positions)->diagonal());
            $mesh = $this->narrowed(TriangleMesh::fromFlat($mesh->positions, $faces, $mesh->support, $mesh->origin), $keep);
        }
        if (($counts['inconsistentEdges'] ?? 0) > 0) {
            $mesh = $this->facingOut($mesh);
        }
        if (($counts['nonManifoldEdges'] ?? 0) > 0 || ($counts['nonManifoldVertices'] ?? 0) > 0) {
            $mesh = $this->apart($mesh, null);
        }
        if (($counts['necks'] ?? 0) > 0) {
            $mesh = $this->withoutNecks($mesh);
        }
        if (($counts['pieces'] ?? 0) > 0) {
            $loose = $this->loose($mesh);
            $mesh = $loose === [] ? $mesh : $this->narrowed($mesh, array_keys(array_filter(Topology::pieces(Topology::twins($mesh->faces))['of'], fn (int $piece) => ! isset($loose[$piece]))));
        }
        if (($counts['spikes'] ?? 0) > 0) {
            $mesh = $this->withoutSpikes($mesh);
        }
        if (($counts['selfIntersections'] ?? 0) > 0) {
            $mesh = $this->withoutCrossings($mesh);
        }
        if (($counts['openEdges'] ?? 0) > 0) {
            $mesh = $this->filled($mesh, fn (): bool => true);
        }

        return $mesh;
    }

    /** @param  list<int>  $keep */
    private function narrowed(TriangleMesh $mesh, array $keep): TriangleMesh
    {
        return count($keep) === $mesh->faceCount() ? $mesh : $mesh->withFaces($keep);
    }

    /**
     * Every fan of faces with vertices of its own.
     *
     * @param  array<int, int>|null  $twin
     */
    private function apart(TriangleMesh $mesh, ?array $twin): TriangleMesh
    {
        [$p, $f, $support] = [$mesh->positions, $mesh->faces, $mesh->support];
        Topology::splitFans($p, $f, $support, $twin);

        return TriangleMesh::fromFlat($p, $f, $support, $mesh->origin);
    }

    /** Neighbours agree, and closed pieces that stand in no other face outwards. */
    private function facingOut(TriangleMesh $mesh): TriangleMesh
    {
        $f = $mesh->faces;
        Tidy::agree($f);
        $twin = Topology::twins($f);
        $pieces = Topology::pieces($twin);
        $faces = array_fill(0, $pieces['count'], []);
        $open = array_fill(0, $pieces['count'], false);
        foreach ($pieces['of'] as $t => $piece) {
            array_push($faces[$piece], $f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]);
            $open[$piece] = $open[$piece] || $twin[3 * $t] < 0 || $twin[3 * $t + 1] < 0 || $twin[3 * $t + 2] < 0;
        }
        $boxes = array_map(fn (array $of) => BoundingBox::of(array_merge(...array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), array_values(array_unique($of))))), $faces);
        foreach ($faces as $piece => $of) {
            $inside = array_filter($boxes, fn (BoundingBox $box, int $other) => $other !== $piece && $box->contains($boxes[$piece]), ARRAY_FILTER_USE_BOTH);
            if ($open[$piece] || $inside !== [] || Measure::volume($mesh->positions, $of) >= 0.0) {
                continue;
            }
            foreach ($pieces['of'] as $t => $its) {
                if ($its === $piece) {
                    [$f[3 * $t + 1], $f[3 * $t + 2]] = [$f[3 * $t + 2], $f[3 * $t + 1]];
                }
            }
        }

        return TriangleMesh::fromFlat($mesh->positions, $f, $mesh->support, $mesh->origin);
    }

    /** Cuts the surface open along loops of three edges and closes both ends. */
    private function withoutNecks(TriangleMesh $mesh): TriangleMesh
    {
        $necks = Tidy::necks($mesh->positions, $mesh->faces);
        if ($necks === []) {
            return $mesh;
        }
        $cut = [];
        foreach ($necks as [$a, $b, $c]) {
            $cut[$a << 32 | $b] = $cut[$b << 32 | $c] = $cut[$a << 32 | $c] = true;
        }
        $f = $mesh->faces;
        $twin = Topology::twins($f);
        foreach ($twin as $h => $g) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            if ($g >= 0 && isset($cut[$a < $b ? $a << 32 | $b : $b << 32 | $a])) {
                $twin[$h] = -1;
            }
        }
        $old = $this->rimPlaces($mesh);

        return $this->filled($this->apart($mesh, $twin), fn (array $rim, array $p): bool => ! $this->isAmong($rim, $p, $old));
    }

    /** @return array<int, true> loose pieces by number */
    private function loose(TriangleMesh $mesh): array
    {
        $pieces = Topology::pieces(Topology::twins($mesh->faces));
        if ($pieces['count'] < 2) {
            return [];
        }
        $areas = array_fill(0, $pieces['count'], 0.0);
        foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
            $areas[$pieces['of'][$t]] += $area;
        }
        $least = self::LOOSE * max($areas);

        return array_map(fn () => true, array_filter($areas, fn (float $area) => $area < $least));
    }

    /** Needles are put into the middle of their neighbours. */
    private function withoutSpikes(TriangleMesh $mesh): TriangleMesh
    {
        $p = $mesh->positions;
        for ($round = 0; $round < 12; $round++) {
            $spikes = array_flip(Inspection::spikes($p, $mesh->faces, $mesh->vertexCount()));
            if ($spikes === []) {
                break;
            }
            $around = [];
            for ($h = 0, $n = count($mesh->faces); $h < $n; $h++) {
                $v = $mesh->faces[$h];
                if (isset($spikes[$v])) {
                    $around[$v][$mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]] = true;
                    $around[$v][$mesh->faces[$h % 3 === 0 ? $h + 2 : $h - 1]] = true;
                }
            }
            foreach ($around as $v => $others) {
                for ($k = 0; $k < 3; $k++) {
                    $p[3 * $v + $k] = array_sum(array_map(fn (int $w) => $p[3 * $w + $k], array_keys($others))) / count($others);
                }
            }
        }

        $mesh = $mesh->withPositions($p);
        $left = Inspection::spikes($p, $mesh->faces, $mesh->vertexCount());

        return $left === [] ? $mesh : $this->cutAndFilled($mesh, array_fill_keys($left, true));
    }

    private function withoutCrossings(TriangleMesh $mesh): TriangleMesh
    {
        $p = $mesh->positions;
        if (Untangle::run($p, $mesh->faces)['left'] === 0) {
            return $mesh->withPositions($p);
        }
        $touched = [];
        foreach (Intersections::pairs($mesh->positions, $mesh->faces) as $t) {
            $touched[$mesh->faces[3 * $t]] = $touched[$mesh->faces[3 * $t + 1]] = $touched[$mesh->faces[3 * $t + 2]] = true;
        }

        return $this->cutAndFilled($mesh, $touched);
    }

    /**
     * What cannot be evened out goes, with all faces around it, and is filled.
     *
     * @param  array<int, true>  $touched  vertices
     */
    private function cutAndFilled(TriangleMesh $mesh, array $touched): TriangleMesh
    {
        $keep = [];
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            if (! isset($touched[$mesh->faces[3 * $t]]) && ! isset($touched[$mesh->faces[3 * $t + 1]]) && ! isset($touched[$mesh->faces[3 * $t + 2]])) {
                $keep[] = $t;
            }
        }
        if (2 * count($keep) < $n) {
            return $mesh;
        }
        $old = $this->rimPlaces($mesh);
        $open = $this->apart($mesh->withFaces($keep), null);
        // Islands that the cut left standing have nothing to hold on to.
        $loose = $this->loose($open);
        $open = $loose === [] ? $open : $this->narrowed($open, array_keys(array_filter(Topology::pieces(Topology::twins($open->faces))['of'], fn (int $piece) => ! isset($loose[$piece]))));

        return $this->filled($open, fn (array $rim, array $p): bool => ! $this->isAmong($rim, $p, $old));
    }

    /** @param  callable(list<int> $rim, array<int, float> $positions): bool  $wanted */
    private function filled(TriangleMesh $mesh, callable $wanted): TriangleMesh
    {
        $filled = $left = 0;

        return (new RimFiller)->fill($mesh, 'tangent', $wanted, new NoProgress, $filled, $left);
    }

    /** @return array<string, true> where the rims are that were open before */
    private function rimPlaces(TriangleMesh $mesh): array
    {
        $places = [];
        foreach (Topology::rims($mesh->faces, Topology::twins($mesh->faces)) as $rim) {
            foreach ($rim as $v) {
                $places[pack('e3', ...array_slice($mesh->positions, 3 * $v, 3))] = true;
            }
        }

        return $places;
    }

    /**
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @param  array<string, true>  $places
     */
    private function isAmong(array $rim, array $p, array $places): bool
    {
        $known = count(array_filter($rim, fn (int $v) => isset($places[pack('e3', $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2])])));

        return 2 * $known > count($rim);
    }
}
