<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\StandIn;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class StandInTest extends TestCase
{
    use OwnFolder;

    /** @return iterable<string, array{int, int}> points, every: around the ends of the pieces in which a blob is read */
    public static function sizes(): iterable
    {
        yield 'a handful' => [7, 3];
        yield 'fewer than are left out' => [5, 9];
        yield 'none' => [0, 2];
        yield 'one piece' => [1 << 18, 7];
        yield 'one point more' => [(1 << 18) + 1, 7];
        yield 'three pieces' => [(2 << 18) + 12345, 1000];
    }

    #[Test]
    #[DataProvider('sizes')]
    public function it_holds_every_so_manyth_point_and_says_so(int $many, int $every): void
    {
        $cloud = PointCloud::fromFlat((new Gen(3))->points($many, 500.0));
        $path = $this->put('whole.blob', Blob::encode($cloud));
        $bytes = StandIn::of($path, $every);
        $stand = Blob::decode($bytes);
        self::assertInstanceOf(PointCloud::class, $stand);
        self::assertSame($every, Blob::head($bytes)['every']);
        self::assertSame(intdiv($many + $every - 1, $every), $stand->count());
        $whole = Blob::decode((string) file_get_contents($path));
        self::assertInstanceOf(PointCloud::class, $whole);
        for ($k = 0; $k < $stand->count(); $k += max(1, intdiv($stand->count(), 500))) {
            self::assertSame(array_slice($whole->positions, 3 * $k * $every, 3), array_slice($stand->positions, 3 * $k, 3));
        }
        self::assertSame(Blob::head((string) file_get_contents($path))['origin'] ?? null, Blob::head($bytes)['origin'] ?? null);
    }

    #[Test]
    public function a_mesh_has_none_and_every_point_is_no_stand_in(): void
    {
        $mesh = $this->put('mesh.blob', Blob::encode(MeshBuilder::icosphere(1)));
        foreach ([[$mesh, 2, 'a mesh has no stand-in'], [$this->put('cloud.blob', Blob::encode(PointCloud::fromFlat([1.0, 2.0, 3.0]))), 1, 'every']] as [$path, $every, $why]) {
            try {
                StandIn::of($path, $every);
                self::fail('It was made all the same.');
            } catch (InvalidParameter $refused) {
                self::assertStringContainsString($why, $refused->getMessage());
            }
        }
    }
}
