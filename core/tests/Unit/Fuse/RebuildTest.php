<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Algorithms\Field\PoissonLevel;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Fuse\Rebuild;
use Emberstone\Core\Fuse\RebuildParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Noise;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class RebuildTest extends TestCase
{
    /** @param  callable(float, float, float): bool  $seen  of a direction */
    private function ball(int $points, float $noiseMm, int $seed, callable $seen, float $radius = 20.0): Pass
    {
        $noise = new Noise($seed);
        $p = $n = [];
        for ($i = 0; $i < $points; $i++) {
            $d = $noise->direction();
            $r = $radius + $noiseMm * $noise->normal();
            if ($seen(...$d)) {
                array_push($p, $r * $d[0], $r * $d[1], $r * $d[2]);
                array_push($n, ...$d);
            }
        }

        return Pass::of("ball $seed", PointCloud::fromFlat($p, $n));
    }

    private function rebuilt(array $passes, float $detail = 1.0, float $support = 0.0): Result
    {
        return (new Rebuild)(new Workpiece($passes), new RebuildParameters($detail, $support), new NoProgress);
    }

    private function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** RMS distance to the ball of the vertices that pass. */
    private function off(TriangleMesh $mesh, callable $which): float
    {
        $sum = $count = 0;
        foreach (array_chunk($mesh->positions, 3) as $at) {
            $r = sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2);
            if ($which($at[0] / $r, $at[1] / $r, $at[2] / $r)) {
                $sum += ($r - 20.0) ** 2;
                $count++;
            }
        }

        return sqrt($sum / max(1, $count));
    }

    #[Test]
    public function three_noisy_passes_of_a_ball_become_one_closed_ball_within_the_bound(): void
    {
        $all = fn (): bool => true;
        $mesh = $this->mesh($this->rebuilt([$this->ball(15000, 0.05, 1, $all), $this->ball(15000, 0.05, 2, $all), $this->ball(15000, 0.05, 3, $all)]));
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0, 0], [$inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertEqualsWithDelta(4 / 3 * M_PI * 8000, $inspection->volume, 0.005 * 33510);
        self::assertLessThan(0.025 + 0.05, $this->off($mesh, $all));
        self::assertSame(3, max(array_map(Evidence::passes(...), $mesh->support)));
        self::assertNotContains(TriangleMesh::CLOSED, $mesh->origin);
    }

    #[Test]
    public function each_of_more_passes_than_a_set_of_bits_holds_counts_in_the_support(): void
    {
        $passes = array_map(fn (int $k) => $this->ball(500, 0.0, $k, fn (float $x, float $y, float $z) => $k < 5 || $z > 0.0), range(1, 70));
        $mesh = $this->mesh($this->rebuilt($passes, 3.0));
        foreach (array_chunk($mesh->positions, 3) as $v => [, , $z]) {
            if ($z > 6.0) {
                self::assertGreaterThan(64, Evidence::passes($mesh->support[$v]));
            } elseif ($z < -15.0) {
                self::assertLessThanOrEqual(4, Evidence::passes($mesh->support[$v]));
            }
        }
    }

    #[Test]
    public function patchy_data_come_out_closed_with_the_gaps_marked(): void
    {
        // The top is missing, and a stripe round the middle.
        $seen = fn (float $x, float $y, float $z): bool => $z < 0.8 && abs($z) > 0.12;
        $result = $this->rebuilt([$this->ball(30000, 0.03, 4, $seen)]);
        $mesh = $this->mesh($result);
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame(1, $inspection->pieces);
        // Where there are data: near them, the made-up surface pulls.
        self::assertLessThan(0.08, $this->off($mesh, fn (float $x, float $y, float $z): bool => $z < 0.6 && abs($z) > 0.25));
        self::assertLessThan(1.0, $this->off($mesh, fn (float $x, float $y, float $z): bool => abs($z) < 0.1), 'the stripe is bridged, not caved in');
        foreach ($mesh->origin as $t => $mark) {
            $z = array_sum(array_map(fn (int $v) => $mesh->positions[3 * $v + 2] / 60.0, array_slice($mesh->faces, 3 * $t, 3)));
            if (abs($z) > 0.3 && $z < 0.65) {
                self::assertSame(TriangleMesh::MEASURED, $mark);
            } elseif ($z > 0.9) {
                self::assertSame(TriangleMesh::CLOSED, $mark);
            }
        }
        self::assertStringContainsString('marked as closed in the volume', $result->notes[0]);
        self::assertEqualsWithDelta($inspection->measured, 1.0 - $inspection->madeUp['closed in the volume'], 1e-12);
    }

    #[Test]
    public function more_support_takes_off_more_until_only_data_are_left(): void
    {
        $seen = fn (float $x, float $y, float $z): bool => $z < 0.7;
        $passes = [$this->ball(30000, 0.02, 5, $seen)];
        $faces = $tops = [];
        foreach ([0.0, 0.05, 0.15, 0.4, 0.7] as $support) {
            $result = $this->rebuilt($passes, 1.0, $support);
            $mesh = $this->mesh($result);
            $faces[] = $mesh->faceCount();
            // What the whole surface foretold, and what its vertices say, by which the view leaves faces out.
            $below ??= $result->after['below'];
            $whole ??= $mesh;
            self::assertEqualsWithDelta(1.0 - $mesh->faceCount() / $faces[0], $below[(int) round(100.0 * $support)], 1e-3);
            $thin = array_filter(array_chunk($whole->faces, 3), fn (array $face) => min(array_map(fn (int $v) => Evidence::weight($whole->support[$v]), $face)) < $support);
            self::assertEqualsWithDelta($below[(int) round(100.0 * $support)], count($thin) / $whole->faceCount(), 0.01);
            $tops[] = max(array_map(fn (array $at) => $at[2], array_chunk($mesh->positions, 3)));
            self::assertSame($support === 0.0, Inspection::of($mesh)->closed);
        }
        self::assertSame($faces, array_values(array_unique($faces)));
        $falling = $faces;
        rsort($falling);
        self::assertSame($falling, $faces);
        self::assertLessThan(16.0, $tops[3], 'the data end at 14 mm');
    }

    #[Test]
    public function what_cannot_be_rebuilt_is_refused_in_words(): void
    {
        $ball = $this->ball(3000, 0.0, 1, fn (): bool => true);
        foreach ([
            [[], 1.0, 'no pass'],
            [[$ball], 0.001, 'the smallest'],
            [[Pass::of('none', PointCloud::fromFlat([]))], 1.0, 'cut away'],
        ] as [$passes, $detail, $words]) {
            try {
                $this->rebuilt($passes, $detail);
                self::fail("done all the same: $words");
            } catch (UnsuitableInput $refused) {
                self::assertStringContainsString($words, $refused->getMessage());
            }
        }
    }

    #[Test]
    #[TestWith([1])]
    #[TestWith([2])]
    public function a_level_solves_for_the_linear_field_that_its_border_holds(int $seed): void
    {
        $gen = new Gen($seed);
        [$a, $b, $c, $d] = [$gen->float(-2.0, 2.0), $gen->float(-2.0, 2.0), $gen->float(-2.0, 2.0), $gen->float(-2.0, 2.0)];
        $level = new PoissonLevel(0.7, 6);
        $cells = [];
        for ($x = 1; $x < 8; $x++) {
            for ($y = 2; $y < 9; $y++) {
                for ($z = 0; $z < 6; $z++) {
                    $cells[$x << 12 | $y << 6 | $z] = true;
                }
            }
        }
        $level->fill($cells);
        $truth = [];
        foreach ($level->nodes as $name => $v) {
            $truth[$v] = $a * ($name >> 12) + $b * ($name >> 6 & 63) + $c * ($name & 63) + $d;
        }
        $free = $level->free();
        self::assertSame(6 * 6 * 5, (int) array_sum($free), 'inner nodes may change');
        foreach ($free as $v => $may) {
            $level->field[$v] = $may > 0.0 ? 0.0 : $truth[$v];
        }
        $many = count($cells);
        $level->solve(array_fill(0, count($truth), 0.0), $free, array_fill(0, $many, 0.0), array_fill(0, 3 * $many, 0.0), 200, 1e-10, fn () => null);
        foreach ($truth as $v => $value) {
            self::assertEqualsWithDelta($value, $level->field[$v], 1e-7, 'harmonic functions of the lattice are linear here');
        }
        $fine = new PoissonLevel(0.35, 6);
        $fine->fill([6 << 12 | 9 << 6 | 5 => true, 7 << 12 | 9 << 6 | 5 => true]);
        $fine->interpolate($level);
        foreach ($fine->nodes as $name => $v) {
            self::assertEqualsWithDelta(0.5 * ($a * ($name >> 12) + $b * ($name >> 6 & 63) + $c * ($name & 63)) + $d, $fine->field[$v], 1e-7);
        }
    }

    #[Test]
    public function crisp_keeps_an_edge_that_soft_rounds(): void
    {
        // Two walls at a right angle; points carry their normals.
        $noise = new Noise(9);
        $p = $n = [];
        for ($i = 0; $i < 40000; $i++) {
            [$u, $v] = [30.0 * $noise->even(), 30.0 * $noise->even()];
            $i % 2 === 0 ? array_push($p, $u, $v, 0.0) : array_push($p, 0.0, $v, -$u);
            $i % 2 === 0 ? array_push($n, 0.0, 0.0, 1.0) : array_push($n, -1.0, 0.0, 0.0);
        }
        $rounded = [];
        foreach (array_keys(FuseParameters::DETAILS) as $detail) {
            $mesh = (new Fuse)(new Workpiece([Pass::of('corner', PointCloud::fromFlat($p, $n))]), new FuseParameters(1.0, detail: $detail), new NoProgress)->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $mesh);
            $nearest = INF;
            foreach (array_chunk($mesh->positions, 3) as [$x, $y, $z]) {
                if ($y > 5.0 && $y < 25.0) {
                    $nearest = min($nearest, sqrt($x * $x + $z * $z));
                }
            }
            $rounded[] = $nearest;
        }
        self::assertLessThan(0.1, $rounded[0]);
        self::assertLessThan($rounded[1], $rounded[0]);
        self::assertLessThan($rounded[2], $rounded[1]);
    }
}
