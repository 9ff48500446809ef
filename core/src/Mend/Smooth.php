<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\Remeshing\MeshDenoising;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\Format;
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
 * Evens out noise.
 *
 * Source    Sun et al. 2007 (keeps edges), Taubin 1995 (does not, keeps volume); see Algorithms/Remeshing/MeshDenoising.
 * Keeps     faces, evidence, open rims, what is not selected and its border; no vertex moves farther than `maxShift`.
 *
 * @implements Operation<SmoothParameters>
 */
final class Smooth implements Operation
{
    public static function about(): About
    {
        return new About('smooth', Stage::Mend, 'Smooth', 'Evens out noise; edges stay unless you say otherwise.', 'meshes', SmoothParameters::class, avoid: 'Not before measuring: what is smoothed is no longer what was scanned. Noise goes more truly by fusing more passes.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 3e-5 * $parameters->strength * $workpiece->faceCount(), 60 + 6e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $most = $squares = 0.0;
        $vertices = 0;
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$most, &$squares, &$vertices): TriangleMesh {
            $marks = $parameters->marks($body->id, $mesh->faceCount());
            if ($marks === null) {
                return $mesh;
            }
            $free = [];
            foreach ($mesh->faces as $h => $v) {
                $free[$v] = ($free[$v] ?? true) && $marks[intdiv($h, 3)] === "\1";
            }
            $rounds = (int) round(10.0 * $parameters->strength);
            $breathe = fn (float $done) => $progress->advance('smoothing', $done);
            $p = $parameters->keepEdges ? MeshDenoising::betweenEdges($mesh->positions, $mesh->faces, $rounds, $breathe) : MeshDenoising::everywhere($mesh->positions, $mesh->faces, $rounds, $breathe);
            $limit = $parameters->maxShift ?? INF;
            foreach ($mesh->positions as $i => $x) {
                if ($i % 3 !== 0) {
                    continue;
                }
                if (! ($free[intdiv($i, 3)] ?? false)) {
                    [$p[$i], $p[$i + 1], $p[$i + 2]] = [$x, $mesh->positions[$i + 1], $mesh->positions[$i + 2]];

                    continue;
                }
                $move = [$p[$i] - $x, $p[$i + 1] - $mesh->positions[$i + 1], $p[$i + 2] - $mesh->positions[$i + 2]];
                $length = sqrt($move[0] ** 2 + $move[1] ** 2 + $move[2] ** 2);
                if ($length > $limit) {
                    // A hair under the limit: adding the shift must not round above it.
                    $k = $limit * (1.0 - 1e-12) / $length;
                    for ($c = 0; $c < 3; $c++) {
                        $p[$i + $c] = $mesh->positions[$i + $c] + $k * $move[$c];
                    }
                    $length = $limit;
                }
                $most = max($most, $length);
                $squares += $length * $length;
                $vertices++;
            }

            return self::marked($mesh, $p);
        }, $progress);
        if ($vertices === 0) {
            throw UnsuitableInput::because('Nothing of a mesh is selected; select the area to smooth, or drop the selection to smooth all.');
        }
        $rms = sqrt($squares / max(1, $vertices));

        return new Result($after, 'moved '.Format::mm($rms).' RMS', [], ['rmsShift' => round($rms, 6), 'maxShift' => round($most, 6)], ['The largest shift is '.Format::mm($most).'.']);
    }

    /**
     * The mesh with its vertices in their new places, and measured faces marked as smoothed where one of their vertices has moved by more than the noise of its points.
     *
     * @param  array<int, float>  $p
     */
    private static function marked(TriangleMesh $mesh, array $p): TriangleMesh
    {
        $isBeyond = [];
        foreach ($mesh->support as $v => $support) {
            $noise = Evidence::spreadMm($support);
            $isBeyond[$v] = $noise > 0.0 && ($p[3 * $v] - $mesh->positions[3 * $v]) ** 2 + ($p[3 * $v + 1] - $mesh->positions[3 * $v + 1]) ** 2 + ($p[3 * $v + 2] - $mesh->positions[3 * $v + 2]) ** 2 > $noise * $noise;
        }
        if (! in_array(true, $isBeyond, true)) {
            return $mesh->withPositions($p);
        }
        $origin = $mesh->origin === [] ? array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED) : $mesh->origin;
        foreach ($origin as $t => $mark) {
            if ($mark === TriangleMesh::MEASURED && ($isBeyond[$mesh->faces[3 * $t]] || $isBeyond[$mesh->faces[3 * $t + 1]] || $isBeyond[$mesh->faces[3 * $t + 2]])) {
                $origin[$t] = TriangleMesh::SMOOTHED;
            }
        }

        return TriangleMesh::fromFlat($p, $mesh->faces, $mesh->support, $origin);
    }
}
