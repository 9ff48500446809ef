<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;

/**
 * How long edges shall be at each vertex of a mesh, mm; the vertices carry it along as their fourth number.
 *
 * Source    sizes by curvature: Dunyach, Vanderhaeghe, Barthe & Botsch 2013, equation 5.
 *
 * @internal
 */
final class SizeField
{
    /** Neighbours in size differ by this factor an edge at most, or triangles between them are no more equal-sided. */
    private const GRADING = 1.35;

    /** How much finer (1 / this) or coarser than the size asked for curvature may make it. */
    private const SPAN = 5.0;

    public function __construct(private readonly EditableMesh $mesh)
    {
    }

    /** Sets the size of every vertex. */
    public function even(float $edge): void
    {
        for ($o = 3, $n = count($this->mesh->vertices); $o < $n; $o += 4) {
            $this->mesh->vertices[$o] = $edge;
        }
    }

    /** Makes all sizes larger or smaller. */
    public function resize(float $by): void
    {
        for ($o = 3, $n = count($this->mesh->vertices); $o < $n; $o += 4) {
            $this->mesh->vertices[$o] *= $by;
        }
    }

    /**
     * Sets sizes by curvature: an edge of size s on a circle of radius r lies s * s / (8 r) off it, and a triangle up to s * s / (6 r) off a ball.
     *
     * @param  float  $edge  the size where nothing is asked
     * @param  float  $deviation  mm that faces may lie off a curved surface
     * @param  float  $share  0 for even sizes, 1 for those that curvature asks for
     */
    public function byCurvature(float $edge, float $deviation, float $share): void
    {
        $V = $this->mesh->vertices;
        foreach ($this->curvatures() as $v => $k) {
            // Dunyach et al., equation 5.
            $size = $k > 0.0 ? sqrt(max(0.0, 6.0 * $deviation / $k - 3.0 * $deviation * $deviation)) : INF;
            $size = max($edge / self::SPAN, min($edge * self::SPAN, $size));
            $V[4 * $v + 3] = $edge ** (1.0 - $share) * $size ** $share;
        }
        $this->mesh->vertices = $V;
        // As many faces as there are now, shared out otherwise.
        $this->resize(sqrt($this->predicted() / max(1, $this->mesh->faceCount())));
        $this->grade();
    }

    /** How many faces the sizes ask for. */
    private function predicted(): float
    {
        [$V, $C] = [$this->mesh->vertices, $this->mesh->corners];
        $sum = 0.0;
        $N = $this->mesh->crosses();
        for ($o = 0, $e = count($C); $o < $e; $o += 4) {
            if ($C[$o + 3] !== 0) {
                $s = ($V[4 * $C[$o] + 3] + $V[4 * $C[$o + 1] + 3] + $V[4 * $C[$o + 2] + 3]) / 3.0;
                $sum += 0.5 * sqrt($N[$o] * $N[$o] + $N[$o + 1] * $N[$o + 1] + $N[$o + 2] * $N[$o + 2]) / (0.25 * sqrt(3.0) * $s * $s);
            }
        }

        return $sum;
    }

    /** Lowers sizes until none is more than GRADING times that of a neighbour. */
    public function grade(): void
    {
        $V = $this->mesh->vertices;
        $C = $this->mesh->corners;
        do {
            $changed = false;
            for ($o = 0, $e = count($C); $o < $e; $o += 4) {
                if ($C[$o + 3] === 0) {
                    continue;
                }
                $i = 4 * $C[$o] + 3;
                $j = 4 * $C[$o + 1] + 3;
                $k = 4 * $C[$o + 2] + 3;
                $least = $V[$i] < $V[$j] ? $V[$i] : $V[$j];
                $most = self::GRADING * ($V[$k] < $least ? $V[$k] : $least);
                if ($V[$i] > $most) {
                    $V[$i] = $most;
                    $changed = true;
                }
                if ($V[$j] > $most) {
                    $V[$j] = $most;
                    $changed = true;
                }
                if ($V[$k] > $most) {
                    $V[$k] = $most;
                    $changed = true;
                }
            }
        } while ($changed);
        $this->mesh->vertices = $V;
    }

    /** @return array<int, float> 1/mm, of each vertex that is there: how much normals turn a millimetre, without the turns at features */
    private function curvatures(): array
    {
        [$C, $twins, $features] = [$this->mesh->corners, $this->mesh->twins, $this->mesh->features];
        $N = $this->mesh->normals();
        // Noise turns normals of neighbours against each other: the mean with the three next to it.
        for ($round = 0; $round < 2; $round++) {
            $M = $N;
            for ($h = 0, $e = count($C); $h < $e; $h += 4) {
                for ($c = $h; $c < $h + 3 && $C[$h + 3] !== 0; $c++) {
                    if ($twins[$c] >= 0 && $features[$c] === 0) {
                        $g = $twins[$c] & ~3;
                        $M[$h] += $N[$g];
                        $M[$h + 1] += $N[$g + 1];
                        $M[$h + 2] += $N[$g + 2];
                    }
                }
                $n = sqrt($M[$h] * $M[$h] + $M[$h + 1] * $M[$h + 1] + $M[$h + 2] * $M[$h + 2]);
                $n = $n > 0.0 ? 1.0 / $n : 0.0;
                $M[$h] *= $n;
                $M[$h + 1] *= $n;
                $M[$h + 2] *= $n;
            }
            $N = $M;
        }
        $most = [];
        foreach ($this->mesh->out as $v => $h) {
            if ($h >= 0) {
                $most[$v] = 0.0;
            }
        }
        for ($h = 0; $h < $e; $h++) {
            $g = $twins[$h];
            if (($h & 3) === 3 || $C[$h | 3] === 0 || $g < $h || $features[$h] !== 0) {
                continue;
            }
            $i = $h & ~3;
            $j = $g & ~3;
            $x = $N[$i] - $N[$j];
            $y = $N[$i + 1] - $N[$j + 1];
            $z = $N[$i + 2] - $N[$j + 2];
            $k = sqrt($x * $x + $y * $y + $z * $z) / max(1e-12, $this->between($i, $j));
            foreach ([$C[$h], $C[EditableMesh::next($h)]] as $v) {
                if ($k > $most[$v]) {
                    $most[$v] = $k;
                }
            }
        }

        return $most;
    }

    /** mm from the middle of a face to that of another. */
    private function between(int $i, int $j): float
    {
        [$V, $C] = [&$this->mesh->vertices, &$this->mesh->corners];
        $sum = 0.0;
        for ($k = 0; $k < 3; $k++) {
            $d = ($V[4 * $C[$i] + $k] + $V[4 * $C[$i + 1] + $k] + $V[4 * $C[$i + 2] + $k] - $V[4 * $C[$j] + $k] - $V[4 * $C[$j + 1] + $k] - $V[4 * $C[$j + 2] + $k]) / 3.0;
            $sum += $d * $d;
        }

        return sqrt($sum);
    }
}
