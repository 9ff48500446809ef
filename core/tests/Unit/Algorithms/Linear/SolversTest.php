<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Horn;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SolversTest extends TestCase
{
    #[Test]
    public function recovers_a_known_rotation_within_1e_9(): void
    {
        for ($seed = 1; $seed <= 50; $seed++) {
            $gen = new Gen($seed);
            $from = $gen->points($gen->int(3, 12), 50.0);
            $truth = RigidTransform::turn($gen->points(1), $gen->float(-3.1, 3.1))->then(RigidTransform::shift(...$gen->points(1, 100.0)));
            $found = Horn::fit($from, $truth->points($from));
            self::assertEqualsWithDelta($truth->matrix, $found->matrix, 1e-9, "seed $seed");
        }
    }

    #[Test]
    public function eigenvectors_satisfy_their_equation(): void
    {
        [$values, $vectors] = Symmetric3::eigen(2.0, -1.0, 0.5, 3.0, 0.25, 1.0);
        foreach ($values as $k => $value) {
            [$x, $y, $z] = $vectors[$k];
            self::assertEqualsWithDelta([$value * $x, $value * $y, $value * $z], [2 * $x - $y + 0.5 * $z, -$x + 3 * $y + 0.25 * $z, 0.5 * $x + 0.25 * $y + $z], 1e-12);
        }
    }

    #[Test]
    public function a_singular_system_has_no_solution_and_a_step_leaves_alone_what_it_leaves_open(): void
    {
        self::assertNull(Dense::solve([1.0, 0.0, 0.0, 0.0], [2.0, 0.0], 2));
        self::assertNull(Dense::solve([1.0, 2.0, 2.0, 4.0], [1.0, 3.0], 2));
        self::assertSame([2.0, 0.0], Dense::step([1.0, 0.0, 0.0, 0.0], [2.0, 0.0], 2));
        self::assertEqualsWithDelta([1.0, -2.0], Dense::solve([0.0, 2.0, 3.0, 1.0], [-4.0, 1.0], 2), 1e-15);
    }

    #[Test]
    public function eigenvectors_of_any_size_rebuild_the_matrix(): void
    {
        $gen = new Gen(21);
        foreach ([1, 2, 3, 6, 9] as $n) {
            $a = array_fill(0, $n * $n, 0.0);
            for ($i = 0; $i < $n; $i++) {
                for ($j = 0; $j <= $i; $j++) {
                    $a[$i * $n + $j] = $a[$j * $n + $i] = $gen->float(-3.0, 3.0);
                }
            }
            ['values' => $values, 'vectors' => $vectors] = SymmetricEigen::of($a, $n);
            $sorted = $values;
            sort($sorted);
            self::assertSame($sorted, $values);
            for ($i = 0; $i < $n; $i++) {
                for ($j = 0; $j < $n; $j++) {
                    $sum = 0.0;
                    for ($k = 0; $k < $n; $k++) {
                        $sum += $values[$k] * $vectors[$k][$i] * $vectors[$k][$j];
                    }
                    self::assertEqualsWithDelta($a[$i * $n + $j], $sum, 1e-12);
                }
            }
        }
    }
}
