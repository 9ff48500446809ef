<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Icp\IcpEquations;
use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\SparseCholesky;

/**
 * The normal equations of all poses together: six unknowns a pass (turn, shift), a block for each pair of passes that have something in common.
 *
 * @internal
 */
final class PoseEquations
{
    /** Resistance of the sparse solution, as a share of the largest diagonal element: what nothing holds stays where it is. */
    private const RESISTANCE = 1e-9;

    /** @var list<array<int, float>> a row: column => value */
    private array $rows;

    /** @var list<float> */
    private array $right;

    public function __construct(private readonly int $passes)
    {
        $this->rows = array_fill(0, 6 * $passes, []);
        $this->right = array_fill(0, 6 * $passes, 0.0);
    }

    /**
     * Adds what IcpEquations::pair() found for a moving and a still pass: both move against each other.
     *
     * @param  list<float>  $a  upper triangle of J^T W J
     * @param  list<float>  $b  J^T W e
     */
    public function add(int $moving, int $still, array $a, array $b): void
    {
        [$i, $j] = [6 * $moving, 6 * $still];
        for ($r = 0; $r < 6; $r++) {
            for ($c = 0; $c < 6; $c++) {
                $v = $a[IcpEquations::upper($r, $c)];
                $this->rows[$i + $r][$i + $c] = ($this->rows[$i + $r][$i + $c] ?? 0.0) + $v;
                $this->rows[$j + $r][$j + $c] = ($this->rows[$j + $r][$j + $c] ?? 0.0) + $v;
                $this->rows[$i + $r][$j + $c] = ($this->rows[$i + $r][$j + $c] ?? 0.0) - $v;
                $this->rows[$j + $r][$i + $c] = ($this->rows[$j + $r][$i + $c] ?? 0.0) - $v;
            }
            $this->right[$i + $r] -= $b[$r];
            $this->right[$j + $r] += $b[$r];
        }
    }

    /**
     * By elimination: for a dozen of passes.
     *
     * @param  list<int>  $still  passes that do not move
     * @return list<float> six numbers a pass
     */
    public function solve(array $still): array
    {
        $size = 6 * $this->passes;
        $this->hold($still);
        $h = array_fill(0, $size * $size, 0.0);
        foreach ($this->rows as $r => $row) {
            foreach ($row as $c => $v) {
                $h[$r * $size + $c] = $v;
            }
        }

        return Dense::step($h, $this->right, $size);
    }

    /**
     * By a sparse factorization: for hundreds of passes, each of which has something in common with a few.
     *
     * @param  list<int>  $still
     * @param  list<array{float, float, float}>  $places  of the passes: those near each other have something in common
     * @param  callable(): void  $breathe  called now and then; may throw to stop
     * @return list<float> six numbers a pass
     */
    public function solveSparse(array $still, array $places, callable $breathe): array
    {
        $this->hold($still);
        $most = 1e-300;
        foreach ($this->rows as $r => $row) {
            $most = max($most, $row[$r] ?? 0.0);
        }
        foreach (array_keys($this->rows) as $r) {
            $this->rows[$r][$r] = ($this->rows[$r][$r] ?? 0.0) + self::RESISTANCE * $most;
        }
        $each = array_merge(...array_map(fn (array $place) => array_fill(0, 6, $place), $places));

        // No step at all would be taken for a fit that has settled.
        return SparseCholesky::solve($this->rows, $this->right, 1, $each, $breathe) ?? $this->solve($still);
    }

    /** @param  list<int>  $still */
    private function hold(array $still): void
    {
        foreach ($still as $pass) {
            for ($r = 6 * $pass; $r < 6 * $pass + 6; $r++) {
                foreach (array_keys($this->rows[$r]) as $c) {
                    unset($this->rows[$c][$r]);
                }
                $this->rows[$r] = [$r => 1.0];
                $this->right[$r] = 0.0;
            }
        }
    }
}
