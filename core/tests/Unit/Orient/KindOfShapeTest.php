<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\KindOfShape;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class KindOfShapeTest extends TestCase
{
    /**
     * A sheet of 60 x 40 cells bent into a shape, with noise across it.
     *
     * @param  callable(float, float): array{float, float, float}  $at  of two numbers between 0 and 1
     */
    private static function sheet(callable $at, float $noise): TriangleMesh
    {
        $gen = new Gen(11);
        $p = $f = [];
        for ($i = 0; $i <= 60; $i++) {
            for ($j = 0; $j <= 40; $j++) {
                foreach ($at($i / 60, $j / 40) as $v) {
                    $p[] = $v + $gen->float(-$noise, $noise);
                }
                if ($i < 60 && $j < 40) {
                    $a = 41 * $i + $j;
                    array_push($f, $a, $a + 41, $a + 42, $a, $a + 42, $a + 1);
                }
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    /** @return iterable<string, array{string, callable(float, float): array{float, float, float}}> */
    public static function shapes(): iterable
    {
        yield 'a plate' => ['plane', fn (float $u, float $v) => [60.0 * $u, 40.0 * $v, 3.0]];
        yield 'a leaning plate' => ['plane', fn (float $u, float $v) => [60.0 * $u, 40.0 * $v, 20.0 * $u - 7.0 * $v]];
        yield 'half a tube' => ['cylinder', fn (float $u, float $v) => [15.0 * cos(3.0 * $u), 15.0 * sin(3.0 * $u), 40.0 * $v]];
        yield 'a third of a wide tube' => ['cylinder', fn (float $u, float $v) => [60.0 * cos(2.0 * $u), 60.0 * sin(2.0 * $u), 80.0 * $v]];
        yield 'a part of a ball' => ['sphere', fn (float $u, float $v) => [30.0 * cos(2.0 * $u) * cos($v), 30.0 * sin(2.0 * $u) * cos($v), 30.0 * sin($v)]];
        yield 'a part of a cone' => ['cone', fn (float $u, float $v) => [(10.0 + 12.0 * $v) * cos(3.0 * $u), (10.0 + 12.0 * $v) * sin(3.0 * $u), 25.0 * $v]];
    }

    /** @param  callable(float, float): array{float, float, float}  $at */
    #[Test]
    #[DataProvider('shapes')]
    public function the_kind_that_was_bent_is_the_kind_that_is_found(string $kind, callable $at): void
    {
        foreach ([0.0, 0.02] as $noise) {
            $blob = OpenBlob::bytes(Blob::encode(self::sheet($at, $noise)));
            $found = KindOfShape::around($blob, Placement::of(1.0, RigidTransform::shift(...$blob->head['origin'])), 2 * (40 * 30 + 20), 12.0);
            self::assertSame($kind, $found['kind'], json_encode($found['rms']) ?: '');
            self::assertLessThan(0.03, $found['rms'][$kind]);
        }
    }

    #[Test]
    public function a_crumb_is_no_shape(): void
    {
        $blob = OpenBlob::bytes(Blob::encode(TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0], [0, 1, 2])));
        $this->expectException(UnsuitableInput::class);
        KindOfShape::around($blob, Placement::of(1.0, RigidTransform::identity()), 0, 12.0);
    }
}
