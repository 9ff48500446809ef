<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\Remeshing\Fair;
use Emberstone\Core\Algorithms\Remeshing\SpikeMeasure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Vector3;
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

/**
 * Lays single vertices that stand out of the surface back into it. Edges and corners of the part stay.
 *
 * Source    what stands out: Algorithms/Remeshing/SpikeMeasure, and what Inspection tells as spikes; where it goes: the smooth cover of its neighbours (Algorithms/Remeshing/Fair, order 2).
 * Keeps     faces, rims, and every vertex that is not caught; faces around those that moved are marked as reshaped.
 *
 * @implements Operation<DespikeParameters>
 */
final class Despike implements Operation
{
    /** Laying a spike down can leave a lower one beside it. */
    private const ROUNDS = 4;

    /** Places told one by one in the figures. */
    private const LISTED = 100;

    public static function about(): About
    {
        return new About('despike', Stage::Mend, 'Despike', 'Lays spikes back into the surface; edges of the part stay.', 'meshes', DespikeParameters::class, avoid: 'Not for sharp tips that the part really has, or for noise all over the surface: that is for Smooth, or better for removing outliers before fusing.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 6e-6 * $workpiece->faceCount(), 60 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $spikes = [];
        $most = 0.0;
        $rough = [];
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$spikes, &$most, &$rough): TriangleMesh {
            $p = $mesh->positions;
            $caught = [];
            $look = null;
            for ($round = 0; $round < self::ROUNDS; $round++) {
                $progress->advance('looking for spikes', $round / self::ROUNDS);
                $now = array_filter(SpikeMeasure::of($p, $mesh->faces, $look), fn (float $lean) => $lean > $parameters->lean())
                    // Beside edges of the part a spike leans little from what lies across: those count that are told as faults.
                    + array_fill_keys(Inspection::spikes($p, $mesh->faces, $mesh->vertexCount()), true);
                if ($now === []) {
                    break;
                }
                $caught += array_map(fn () => true, $now);
                [$look, $isFair] = self::lay($p, $mesh->faces, $caught, fn () => $progress->advance('looking for spikes', $round / self::ROUNDS));
                if (! $isFair) {
                    $rough[$body->id] = $body->name;
                }
            }
            $progress->advance('looking for spikes', 1.0);
            foreach (array_keys($caught) as $v) {
                $was = [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]];
                $moved = Vector3::length(Vector3::minus($was, [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]]));
                $most = max($most, $moved);
                $spikes[] = ['body' => $body->name, 'centre' => $was, 'movedMm' => round($moved, 4)];
            }

            return $caught === [] ? $mesh : TriangleMesh::fromFlat($p, $mesh->faces, $mesh->support, self::marked($mesh, $caught));
        }, $progress);
        usort($spikes, fn (array $a, array $b) => $b['movedMm'] <=> $a['movedMm']);
        $many = count($spikes);

        return new Result(
            $after, $many === 0 ? 'no spike' : ($many === 1 ? '1 spike laid down' : Format::count($many).' spikes laid down'), ['spikes' => $many],
            ['spikes' => 0, 'maxShift' => round($most, 6), 'listed' => array_slice($spikes, 0, self::LISTED)],
            [...($many === 0 ? [] : ['The largest shift is '.Format::mm($most).'.']), ...array_map(fn (string $name) => "Some spikes of $name could not be laid down smoothly: what is around them gives no smooth surface. Look at them, or repair the body first.", array_values($rough))],
            $rough === [] ? Outcome::Reached : Outcome::StoppedEarly,
        );
    }

    /**
     * Fairs the caught vertices into what is around them.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, int>  $f
     * @param  array<int, true>  $caught
     * @return array{array<int, true>, bool} the caught vertices and two rings around them; and whether they lie as smoothly as they should
     */
    private static function lay(array &$p, array $f, array $caught, callable $breathe): array
    {
        $near = $caught;
        for ($ring = 0; $ring < 3; $ring++) {
            $wider = $near;
            for ($o = 0, $n = count($f); $o < $n; $o += 3) {
                if (isset($near[$f[$o]]) || isset($near[$f[$o + 1]]) || isset($near[$f[$o + 2]])) {
                    $wider[$f[$o]] = $wider[$f[$o + 1]] = $wider[$f[$o + 2]] = true;
                }
            }
            $near = $wider;
        }
        $around = [];
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            if (isset($near[$a])) {
                $around[$a][$b] = true;
            }
            if (isset($near[$b])) {
                $around[$b][$a] = true;
            }
        }
        $isFair = Fair::run($p, array_map(array_keys(...), $around), array_keys($caught), 2, $breathe);

        return [$near, $isFair];
    }

    /**
     * @param  array<int, true>  $caught
     * @return list<int>
     */
    private static function marked(TriangleMesh $mesh, array $caught): array
    {
        $origin = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : $mesh->origin;
        foreach ($mesh->faces as $h => $v) {
            if (isset($caught[$v]) && $origin[intdiv($h, 3)] === TriangleMesh::MEASURED) {
                $origin[intdiv($h, 3)] = TriangleMesh::RESHAPED;
            }
        }

        return $origin;
    }
}
