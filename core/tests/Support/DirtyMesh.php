<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Mesh\TriangleMesh;

/** A clean closed mesh with damage of every family, seeded; the places of the damage are known. */
final class DirtyMesh
{
    /** @var list<array{float, float, float}> */
    public array $places = [];

    /** @var array<int, float> */
    private array $p;

    /** @var array<int, int> */
    private array $f;

    private function __construct(public readonly TriangleMesh $clean, private readonly Gen $gen)
    {
        $this->p = $clean->positions;
        $this->f = $clean->faces;
    }

    /** Every kind of damage $times times. */
    public static function of(TriangleMesh $clean, int $seed, int $times = 1): self
    {
        $dirty = new self($clean, new Gen($seed));
        for ($k = 0; $k < $times; $k++) {
            foreach ([$dirty->spike(...), $dirty->pinHole(...), $dirty->hole(...), $dirty->slit(...), $dirty->flip(...), $dirty->double(...), $dirty->flap(...), $dirty->shell(...)] as $damage) {
                $damage();
            }
        }

        return $dirty;
    }

    public function mesh(): TriangleMesh
    {
        return TriangleMesh::fromFlat(array_values($this->p), array_values($this->f));
    }

    /** A vertex pulled far out. */
    private function spike(): void
    {
        $v = $this->gen->int(0, $this->clean->vertexCount() - 1);
        $this->at($v);
        $k = $this->gen->float(1.15, 1.5);
        for ($c = 0; $c < 3; $c++) {
            $this->p[3 * $v + $c] *= $k;
        }
    }

    private function pinHole(): void
    {
        $t = $this->face();
        array_splice($this->f, 3 * $t, 3);
    }

    /** All faces around a vertex and around its neighbours. */
    private function hole(): void
    {
        $v = $this->f[3 * $this->face()];
        $near = [$v => true];
        foreach (array_chunk($this->f, 3) as $corners) {
            if (in_array($v, $corners, true)) {
                $near += array_fill_keys($corners, true);
            }
        }
        $this->drop(fn (array $corners): bool => array_filter($corners, fn (int $w) => isset($near[$w])) !== []);
    }

    /** A row of faces along a walk from edge to edge. */
    private function slit(): void
    {
        $t = $this->face();
        $gone = [$t => true];
        for ($step = 0; $step < 6; $step++) {
            $edge = array_slice($this->f, 3 * $t, 3);
            array_splice($edge, $step % 3, 1);
            foreach (array_chunk($this->f, 3) as $u => $corners) {
                if (! isset($gone[$u]) && count(array_intersect($corners, $edge)) === 2) {
                    $gone[$t = $u] = true;
                    $this->at($corners[0]);
                    break;
                }
            }
        }
        $k = 0;
        $this->drop(function () use ($gone, &$k): bool {
            return isset($gone[$k++]);
        });
    }

    private function flip(): void
    {
        $t = $this->face();
        [$this->f[3 * $t], $this->f[3 * $t + 1]] = [$this->f[3 * $t + 1], $this->f[3 * $t]];
    }

    private function double(): void
    {
        $t = $this->face();
        array_push($this->f, $this->f[3 * $t + 1], $this->f[3 * $t + 2], $this->f[3 * $t]);
    }

    /** A third face on an edge. */
    private function flap(): void
    {
        $t = $this->face();
        [$a, $b] = [$this->f[3 * $t], $this->f[3 * $t + 1]];
        $k = 1.2;
        $c = intdiv(count($this->p), 3);
        array_push($this->p, $k * $this->p[3 * $a], $k * $this->p[3 * $a + 1], $k * $this->p[3 * $a + 2]);
        array_push($this->f, $b, $a, $c);
    }

    /** A small closed piece beside, inside or across the surface. */
    private function shell(): void
    {
        $first = intdiv(count($this->p), 3);
        $small = MeshBuilder::icosphere(0, 0.05);
        $v = $this->gen->int(0, $this->clean->vertexCount() - 1);
        $out = [1.6, 0.4, 1.02][$this->gen->int(0, 2)];
        foreach ($small->positions as $k => $x) {
            $this->p[] = $x + $this->clean->positions[3 * $v + $k % 3] * $out;
        }
        foreach ($small->faces as $w) {
            $this->f[] = $first + $w;
        }
    }

    /** Some face, its place remembered. */
    private function face(): int
    {
        $t = $this->gen->int(0, intdiv(count($this->f), 3) - 1);
        $this->at($this->f[3 * $t]);

        return $t;
    }

    private function at(int $v): void
    {
        $this->places[] = [$this->p[3 * $v], $this->p[3 * $v + 1], $this->p[3 * $v + 2]];
    }

    /** @param  callable(list<int>): bool  $gone */
    private function drop(callable $gone): void
    {
        $this->f = array_merge(...array_values(array_filter(array_chunk($this->f, 3), fn (array $corners) => ! $gone($corners))));
    }
}
