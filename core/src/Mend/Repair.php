<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\HandleLoops;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Remeshing\Needles;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\CleanRims;
use Emberstone\Core\Rims\CutAndRefill;
use Emberstone\Core\Rims\PatchShape;
use Emberstone\Core\Rims\RimFiller;

/**
 * Removes faults, family by family, and looks again until none is left or nothing more helps.
 *
 * Source    crossing triangles: evened out (Algorithms/Remeshing/Untangle), else cut away with a ring around them and filled (after Attene 2010).
 * Keeps     faces without a fault, where no neighbour has one.
 *
 * @implements Operation<RepairParameters>
 */
final class Repair implements Operation
{
    private const ROUNDS = 3;

    /** What one fault of a family is called, and more of them where that is not with an s. */
    private const WORDS = [
        'duplicateFaces' => ['duplicate face'], 'degenerateFaces' => ['face without area', 'faces without area'], 'inconsistentEdges' => ['face turned round', 'faces turned round'],
        'nonManifoldEdges' => ['non-manifold edge'], 'nonManifoldVertices' => ['non-manifold vertex', 'non-manifold vertices'], 'necks' => ['neck'], 'tunnels' => ['tunnel'],
        'doubleSkins' => ['double skin'], 'pieces' => ['loose piece'], 'spikes' => ['spike'], 'selfIntersections' => ['pair of crossing faces', 'pairs of crossing faces'], 'openEdges' => ['open rim'],
    ];

    public static function about(): About
    {
        return new About('repair', Stage::Mend, 'Repair', 'Removes faults: doubles, slivers, faces the wrong way round, crossings, spikes, second layers, loose pieces, holes.', 'meshes', RepairParameters::class, avoid: 'Not instead of looking: where faults pile up in one place the scan is bad there, and a pass more mends it better.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + 5e-5 * $workpiece->faceCount(), 80 + 1e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $before = $after = array_fill_keys(RepairParameters::FAULTS, 0);
        $worse = $twisted = [];
        $tunnels = $rims = 0;
        $result = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$before, &$after, &$worse, &$twisted, &$tunnels, &$rims): TriangleMesh {
            $leftOpen = $body->openPlaces();
            $stay = [...$leftOpen, ...self::wider($mesh, $parameters)];
            $counts = $this->counts($mesh, $parameters, $stay, new PartProgress($progress, 0.0, 0.2));
            foreach ($counts as $fault => $count) {
                $before[$fault] += $count;
            }
            [$untouched, $first] = [$mesh, $counts];
            $twisted += ($counts['inconsistentEdges'] ?? 0) > 1 && self::hasNoOutside($mesh->faces) ? [$body->id => $body->name] : [];
            for ($round = 0; $round < self::ROUNDS && array_sum($counts) > 0; $round++) {
                $part = new PartProgress($progress, 0.2 + 0.8 * $round / self::ROUNDS, 0.2 + 0.8 * ($round + 1) / self::ROUNDS);
                $mesh = $this->once($mesh, $counts, $parameters->longest, $stay, new PartProgress($part, 0.0, 0.5));
                $counts = $this->counts($mesh, $parameters, $stay, new PartProgress($part, 0.5, 1.0));
            }
            if (array_sum($counts) > array_sum($first)) {
                // What is hardly a surface, a single triangle say, only gets worse.
                [$mesh, $counts] = [$untouched, $first];
                $worse[$body->id] = $body->name;
            }
            foreach ($counts as $fault => $count) {
                $after[$fault] += $count;
            }
            $tunnels += $parameters->faults === null ? count(HandleLoops::of($mesh->positions, $mesh->faces, Topology::twins($mesh->faces))) : 0;
            $rims += $parameters->holes === 'all' ? 0 : count(array_filter(Inspection::of($mesh)->holes, fn (array $hole) => ! BoundaryLoops::isMeant($hole, $leftOpen)));
            $progress->advance('repairing', 1.0);

            return $mesh;
        }, $progress);
        $before = array_filter($before);
        $left = array_filter($after);
        $notes = $left === [] ? [] : ['Left: '.implode(', ', array_map(fn (string $fault, int $count) => Format::many($count, ...self::WORDS[$fault]), array_keys($left), $left)).'. Cut the place away and fill it.'];
        if ($tunnels > 0) {
            $notes[] = ($tunnels === 1 ? 'One tunnel hardly wider than a face stays open, as it may be meant. Ask for tunnels by name to close it.' : "$tunnels tunnels hardly wider than a face stay open, as they may be meant. Ask for tunnels by name to close them.");
        }
        if ($twisted !== []) {
            $notes[] = implode(', ', $twisted).' has no outside: its faces cannot all agree, as on a band with half a turn in it. Cut it away where it turns over, then repair again.';
        }
        $worse = array_diff_key($worse, $twisted);
        if ($worse !== []) {
            $notes[] = implode(', ', $worse).' would have more faults afterwards and was left as it is: there is too little surface to mend.';
        }

        return new Result(
            $result, array_sum($before).' → '.array_sum($left).' faults'.($rims === 0 ? '' : ', '.Format::many($rims, 'rim').' left to close'), $before, $left + array_fill_keys(array_keys($before), 0), $notes,
            $left === [] ? Outcome::Reached : Outcome::StoppedEarly,
        );
    }

    /**
     * The openings that are there before and are no faults, as they are too wide: what repairing cuts open itself is closed again, however wide it is.
     *
     * @return list<array{float, float, float, float}> middles and widths, as Body holds those that are left open
     */
    private static function wider(TriangleMesh $mesh, RepairParameters $parameters): array
    {
        if ($parameters->holes === 'all') {
            return [];
        }

        return array_values(array_map(fn (array $hole) => [...$hole['centre'], $hole['diameter']], array_filter(BoundaryLoops::of($mesh)->holes, fn (array $hole) => ! $parameters->closes($hole['diameter']))));
    }

    /**
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen
     * @return array<string, int> faults of the wanted families; the rims, not the edges, of openings that shall not be there
     */
    private function counts(TriangleMesh $mesh, RepairParameters $parameters, array $leftOpen, Progress $progress): array
    {
        $report = Inspection::of($mesh, $progress);
        $counts = ['openEdges' => count(array_filter($report->holes, fn (array $hole) => ! BoundaryLoops::isMeant($hole, $leftOpen))), 'necks' => $parameters->wants('necks') ? count(MeshCleanup::necks($mesh->positions, $mesh->faces)) : 0, 'pieces' => count(CutAndRefill::loose($mesh)),
            'tunnels' => $parameters->wants('tunnels') && $report->genus > 0 ? count(HandleLoops::of($mesh->positions, $mesh->faces, Topology::twins($mesh->faces), $parameters->longest)) : 0] + $report->faults;
        // A body that looks inwards is as wrong as two neighbours that disagree.
        $counts['inconsistentEdges'] += match (true) {
            ! $parameters->wants('inconsistentEdges') => 0,
            $report->closed && $report->pieces === 1 => $report->volume < 0.0 ? 1 : 0,
            default => count(Facing::inwards($mesh->positions, $mesh->faces)),
        };

        $counts['doubleSkins'] = $parameters->wants('doubleSkins') ? count(FaultPlaces::doubled($mesh)) : 0;

        return array_filter($counts, fn (string $fault) => $parameters->wants($fault), ARRAY_FILTER_USE_KEY);
    }

    /**
     * @param  array<string, int>  $counts  what there is to do; what one family uncovers for another is done in the next round
     * @param  float|null  $longest  way around a tunnel, mm
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen
     */
    private function once(TriangleMesh $mesh, array $counts, ?float $longest, array $leftOpen, Progress $progress): TriangleMesh
    {
        if (($counts['duplicateFaces'] ?? 0) > 0) {
            $mesh = $this->narrowed($mesh, MeshCleanup::withoutDuplicates($mesh->faces));
        }
        if (($counts['degenerateFaces'] ?? 0) > 0) {
            $faces = $mesh->faces;
            $keep = MeshCleanup::withoutDegenerates($mesh->positions, $faces, MeshCleanup::NOTHING * BoundingBox::of($mesh->positions)->diagonal());
            $mesh = $this->narrowed(TriangleMesh::fromFlat($mesh->positions, $faces, $mesh->support, $mesh->origin), $keep);
        }
        if (($counts['inconsistentEdges'] ?? 0) > 0) {
            $mesh = Facing::outwards($mesh);
        }
        if (($counts['nonManifoldEdges'] ?? 0) > 0 || ($counts['nonManifoldVertices'] ?? 0) > 0) {
            $mesh = CutAndRefill::apart($mesh);
        }
        if (($counts['necks'] ?? 0) > 0) {
            $mesh = CutAndRefill::along($mesh, MeshCleanup::necks($mesh->positions, $mesh->faces));
        }
        if (($counts['tunnels'] ?? 0) > 0) {
            $tunnels = HandleLoops::of($mesh->positions, $mesh->faces, Topology::twins($mesh->faces), $longest);
            $mesh = CutAndRefill::along($mesh, array_column($tunnels, 'loop'), array_merge(...array_column($tunnels, 'wall')));
        }
        if (($counts['doubleSkins'] ?? 0) > 0) {
            $mesh = CutAndRefill::withoutInnerLayers($mesh);
        }
        if (($counts['pieces'] ?? 0) > 0) {
            $loose = CutAndRefill::loose($mesh);
            $mesh = $loose === [] ? $mesh : $this->narrowed($mesh, array_keys(array_filter(Topology::pieces(Topology::twins($mesh->faces))['of'], fn (int $piece) => ! isset($loose[$piece]))));
        }
        $progress->advance('repairing', 0.2);
        if (($counts['spikes'] ?? 0) > 0) {
            $mesh = $this->withoutSpikes($mesh);
        }
        if (($counts['selfIntersections'] ?? 0) > 0) {
            $mesh = CutAndRefill::withoutCrossings($mesh, new PartProgress($progress, 0.3, 0.8));
        }
        $progress->advance('repairing', 0.8);
        if (($counts['openEdges'] ?? 0) > 0) {
            $clean = CleanRims::of($mesh, fn (array $rims, array $p): array => BoundaryLoops::along($rims, $p)->not($leftOpen));
            $mesh = (new RimFiller)->fill($clean->mesh, new PatchShape, $clean->wanted, new PartProgress($progress, 0.8, 1.0))->mesh;
        }

        return $mesh;
    }

    /** @param  list<int>  $keep */
    private function narrowed(TriangleMesh $mesh, array $keep): TriangleMesh
    {
        return count($keep) === $mesh->faceCount() ? $mesh : $mesh->withFaces($keep);
    }

    /**
     * Do two faces at an edge disagree however all are turned?
     *
     * @param  array<int, int>  $f
     */
    private static function hasNoOutside(array $f): bool
    {
        MeshCleanup::agree($f);
        $ways = [];
        foreach ($f as $h => $a) {
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $ways[min($a, $b) << 32 | max($a, $b)][] = $a < $b;
        }

        return array_filter($ways, fn (array $of) => count($of) === 2 && $of[0] === $of[1]) !== [];
    }

    /** Needles are put into the middle of their neighbours. */
    private function withoutSpikes(TriangleMesh $mesh): TriangleMesh
    {
        $p = Needles::laidDown($mesh->positions, $mesh->faces, fn (array $p) => Inspection::spikes($p, $mesh->faces, $mesh->vertexCount()));
        $mesh = $mesh->withPositions($p);
        $left = Inspection::spikes($p, $mesh->faces, $mesh->vertexCount());

        return $left === [] ? $mesh : CutAndRefill::around($mesh, array_fill_keys($left, true));
    }
}
