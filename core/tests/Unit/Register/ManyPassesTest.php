<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Register\PoseEquations;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\Extent;
use Emberstone\Core\Rigs\Noise;
use Emberstone\Core\Rigs\RangeCamera;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Frames of a handheld scanner by the dozen: who is tied to whom, the sparse equations, a loop that closes. */
final class ManyPassesTest extends TestCase
{
    /** @return array<int, array<int, float>> so many passes around a ring; two overlap by how near they stand */
    private static function ring(int $count, float $wide): array
    {
        $overlap = [];
        for ($i = 0; $i < $count; $i++) {
            for ($j = 0; $j < $count; $j++) {
                if ($i !== $j) {
                    $apart = min(abs($i - $j), $count - abs($i - $j)) / $count;
                    $overlap[$i][$j] = max(0.0, 1.0 - $apart / $wide);
                }
            }
        }

        return $overlap;
    }

    #[Test]
    public function a_dozen_passes_are_tied_wherever_they_overlap_enough(): void
    {
        $overlap = [[1 => 0.5, 2 => 0.02], [0 => 0.04, 2 => 0.3], [0 => 0.06, 1 => 0.3]];
        self::assertSame([[0, 1], [1, 2], [2, 0], [2, 1]], Overlaps::pairs($overlap));
        self::assertSame([[1 => 0.5, 2 => 0.06], [0 => 0.5, 2 => 0.3], [0 => 0.06, 1 => 0.3]], Overlaps::mutual($overlap));
        self::assertCount(12 * 13, Overlaps::pairs(self::ring(13, 2.0)));
    }

    #[Test]
    public function each_of_many_passes_is_tied_to_its_nearest_and_to_some_across(): void
    {
        $pairs = Overlaps::pairs(self::ring(60, 0.3));
        $of = array_fill(0, 60, []);
        foreach ($pairs as [$i, $j]) {
            $of[$i][] = min(abs($i - $j), 60 - abs($i - $j));
            self::assertContains([$j, $i], $pairs, 'both ways');
        }
        foreach ($of as $apart) {
            // Chosen by itself and by others.
            self::assertGreaterThanOrEqual(Overlaps::PARTNERS, count($apart));
            self::assertLessThanOrEqual(3 * Overlaps::PARTNERS, count($apart));
            self::assertContains(1, $apart);
            self::assertGreaterThan(10, max($apart), 'across the loop');
        }
    }

    #[Test]
    public function what_hangs_together_is_tied_together_and_nothing_else(): void
    {
        for ($seed = 1; $seed <= 20; $seed++) {
            $gen = new Gen($seed);
            $n = $gen->int(14, 40);
            $overlap = array_fill(0, $n, []);
            for ($i = 0; $i < $n; $i++) {
                for ($j = 0; $j < $i; $j++) {
                    [$overlap[$i][$j], $overlap[$j][$i]] = $gen->float() < 0.2 ? [$gen->float(), $gen->float()] : [0.0, 0.0];
                }
            }
            $all = [];
            foreach ($overlap as $i => $row) {
                foreach ($row as $j => $share) {
                    if (max($share, $overlap[$j][$i]) >= Overlaps::LEAST) {
                        $all[] = [$i, $j];
                    }
                }
            }
            $pairs = Overlaps::pairs($overlap);
            self::assertSame(self::parts($n, $all), self::parts($n, $pairs));
            foreach ($pairs as [$i, $j]) {
                self::assertGreaterThanOrEqual(Overlaps::LEAST, $overlap[$i][$j]);
            }
        }
    }

    /**
     * @param  list<array{int, int}>  $pairs
     * @return list<int> of each the smallest number it hangs together with
     */
    private static function parts(int $n, array $pairs): array
    {
        $part = range(0, $n - 1);
        do {
            $before = $part;
            foreach ($pairs as [$i, $j]) {
                $part[$i] = $part[$j] = min($part[$i], $part[$j]);
            }
        } while ($part !== $before);

        return $part;
    }

    #[Test]
    public function the_sparse_solution_is_that_of_elimination_and_passes_that_stay_do_not_move(): void
    {
        for ($seed = 1; $seed <= 5; $seed++) {
            $gen = new Gen($seed);
            $n = 20;
            [$dense, $sparse] = [new PoseEquations($n), new PoseEquations($n)];
            for ($k = 0; $k < 3 * $n; $k++) {
                $i = $k % $n;
                $j = ($i + 1 + intdiv($k, $n)) % $n;
                $a = array_fill(0, 21, 0.0);
                $b = array_fill(0, 6, 0.0);
                // As many observations as pin all six freedoms.
                for ($m = 0; $m < 12; $m++) {
                    $row = array_map(fn () => $gen->float(-1.0, 1.0), range(0, 5));
                    $e = $gen->float(-1.0, 1.0);
                    for ($r = 0, $o = 0; $r < 6; $r++) {
                        for ($c = $r; $c < 6; $c++) {
                            $a[$o++] += $row[$r] * $row[$c];
                        }
                        $b[$r] += $row[$r] * $e;
                    }
                }
                $dense->add($i, $j, $a, $b);
                $sparse->add($i, $j, $a, $b);
            }
            $places = array_map(fn (int $i) => [cos(2.0 * M_PI * $i / $n), sin(2.0 * M_PI * $i / $n), 0.0], range(0, $n - 1));
            $expected = $dense->solve([0, 7]);
            self::assertEqualsWithDelta($expected, $sparse->solveSparse([0, 7], $places, fn () => null), 1e-6);
            self::assertSame(array_fill(0, 6, 0.0), array_slice($expected, 42, 6));
            self::assertGreaterThan(0.01, max(array_map(abs(...), $expected)));
        }
    }

    #[Test]
    public function what_the_sparse_solution_cannot_take_apart_goes_to_elimination(): void
    {
        // A block with two directions of which one is pushed the wrong way: not positive definite.
        $a = [1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0, 0.0, -2.0];
        $equations = new PoseEquations(2);
        $equations->add(1, 0, $a, [1.0, 0.0, 0.0, 0.0, 0.0, 4.0]);
        $x = $equations->solveSparse([0], [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]], fn () => null);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, 0.0, 2.0], $x, 1e-6);
    }

    #[Test]
    public function of_a_dense_cloud_some_points_stand_for_all_with_the_normals_that_all_give_them(): void
    {
        $gen = new Gen(3);
        $p = [];
        for ($k = 0; $k < 4000; $k++) {
            $z = $gen->float(-1.0, 1.0);
            $a = $gen->float(0.0, 2.0 * M_PI);
            array_push($p, 20.0 * sqrt(1.0 - $z * $z) * cos($a), 20.0 * sqrt(1.0 - $z * $z) * sin($a), 20.0 * $z);
        }
        $cloud = PointCloud::fromFlat($p, sensorOrigin: [0.0, 0.0, 500.0]);
        $all = OrientedCloud::of($cloud);
        $some = OrientedCloud::of($cloud, most: 1000);
        self::assertSame(1000, $some['cloud']->count());
        self::assertEqualsWithDelta(2.0 * $all['spacing'], $some['spacing'], 1e-12);
        $at = array_flip($all['order']);
        foreach ($some['order'] as $slot => $i) {
            foreach ([0, 1, 2] as $c) {
                self::assertSame($all['cloud']->positions[3 * $at[$i] + $c], $some['cloud']->positions[3 * $slot + $c]);
                self::assertSame($all['cloud']->normals[3 * $at[$i] + $c], $some['cloud']->normals[3 * $slot + $c]);
            }
            self::assertSame($all['lean'][$at[$i]], $some['lean'][$slot]);
        }
        self::assertSame(4000, OrientedCloud::of($cloud, most: 4000)['cloud']->count());
    }

    #[Test]
    public function a_loop_of_frames_that_walked_off_closes(): void
    {
        $part = new BearingPedestal;
        $extent = Extent::of($part);
        $c = $extent->centre;
        $noise = new Noise(5);
        $camera = new RangeCamera(128, 96, 0.05);
        $walked = RigidTransform::identity();
        $passes = $walks = [];
        for ($k = 0; $k < 18; $k++) {
            $turn = 2.0 * M_PI * $k / 18;
            $away = 4.2 * $extent->reach;
            $eye = [$c[0] + $away * cos(0.5) * cos($turn), $c[1] + $away * cos(0.5) * sin($turn), $c[2] + $away * sin(0.5)];
            $points = $camera->render($part, $eye, $c, $extent->reach, null, false, $noise);
            if ($k > 0) {
                // As far as a dozen frames of 0.05 mm and 0.03 degrees walk.
                $walked = $walked->then(RigidTransform::shift(-$c[0], -$c[1], -$c[2]))->then(RigidTransform::turn($noise->direction(), deg2rad(0.1)))
                    ->then(RigidTransform::shift(...array_map(fn (float $at, float $v) => $at + 0.17 * $v, $c, $noise->direction())));
            }
            $passes[] = Pass::of("frame $k", PointCloud::fromFlat($points, sensorOrigin: $eye)->transformed($walked));
            $walks[] = $walked;
        }
        // How far the last frame is off the first, at the corners of the part.
        $gap = function (array $placed) use ($walks): float {
            $off = $walks[17]->then($placed[17]->transform)->then($walks[0]->then($placed[0]->transform)->inverse());

            return max(array_map(fn (array $p) => sqrt(array_sum(array_map(fn (float $a, float $b) => ($a - $b) ** 2, $off->point($p), $p))), [[-60.0, -35.0, 0.0], [60.0, 35.0, 0.0], [27.0, -30.0, 79.0]]));
        };
        $progress = new RecordingProgress;
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 4.0), $progress);
        self::assertGreaterThan(0.4, $gap($passes));
        self::assertLessThan(0.2, $gap($result->workpiece->passes));
        self::assertTrue($result->workpiece->passes[0]->transform->isIdentity());
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions, 'progress never falls');
    }
}
