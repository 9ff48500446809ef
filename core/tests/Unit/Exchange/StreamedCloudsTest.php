<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\ReadApart;
use Emberstone\Core\Exchange\TextColumns;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Exchange\Xyz;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Clouds read piece by piece, and what travels with their points: confidence and the grid of rays. */
final class StreamedCloudsTest extends TestCase
{
    use OwnFolder;

    /** Points with everything a file can hold, in single precision. */
    private static function cloud(int $points): PointCloud
    {
        $gen = new Gen(11);
        $single = fn (float $v): float => (unpack('g', pack('g', $v)) ?: [1 => 0.0])[1];
        $positions = array_map($single, array_map(fn (float $v) => 400.0 + 100.0 * $v, $gen->points($points)));
        $normals = $colours = $confidence = [];
        for ($i = 0; $i < $points; $i++) {
            array_push($normals, ...[[1.0, 0.0, 0.0], [0.0, -1.0, 0.0], [0.0, 0.0, 1.0]][$i % 3]);
            $colours[] = ($i * 7919) & 0xFFFFFF;
            $confidence[] = $single($i / $points);
        }

        return PointCloud::fromFlat($positions, $normals, $colours, [1.0, 2.0, 3.5], $confidence);
    }

    /** @return iterable<string, array{bool}> */
    public static function encodings(): iterable
    {
        yield 'binary' => [false];
        yield 'text' => [true];
    }

    #[Test]
    #[DataProvider('encodings')]
    public function a_ply_cloud_streamed_into_a_blob_is_the_same_as_one_read_whole(bool $ascii): void
    {
        // More than two chunks.
        $cloud = self::cloud(20_000);
        $file = "$this->folder/a.ply";
        Formats::write($file, $cloud, new WriteOptions($ascii));
        $whole = Formats::read($file)->geometry;
        self::assertInstanceOf(PointCloud::class, $whole);
        self::assertSame($cloud->colours, $whole->colours);
        self::assertSame([1.0, 2.0, 3.5], $whole->sensorOrigin);
        self::assertEqualsWithDelta($cloud->positions, $whole->positions, $ascii ? 1e-6 : 0.0);
        self::assertEqualsWithDelta($cloud->confidence, $whole->confidence, $ascii ? 1e-7 : 0.0);

        $thing = Formats::intoBlob($file, "$this->folder/a.blob");
        self::assertNotNull($thing);
        self::assertSame([20_000, 'cloud'], [$thing->points, $thing->kind]);
        $streamed = Blob::decode((string) file_get_contents($thing->blob));
        self::assertInstanceOf(PointCloud::class, $streamed);
        self::assertSame([$whole->normals, $whole->colours, $whole->sensorOrigin], [$streamed->normals, $streamed->colours, $streamed->sensorOrigin]);
        // Relative to the first point in single precision: a hundred long leaves steps of 8e-6.
        self::assertEqualsWithDelta($whole->positions, $streamed->positions, 2e-5);
        self::assertEqualsWithDelta($whole->confidence, $streamed->confidence, 1e-7);
    }

    #[Test]
    public function columns_of_every_type_in_any_order_are_told_apart(): void
    {
        $head = "ply\nformat binary_little_endian 1.0\nelement vertex 2\nproperty uchar flags\nproperty double z\nproperty float confidence\nproperty short x\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nproperty double y\nend_header\n";
        $file = $this->put('a.ply', $head.pack('CegvC3e', 9, 3.25, 0.5, 1, 255, 128, 0, 2.5).pack('CegvC3e', 9, -3.25, 0.25, 7, 0, 1, 2, -2.5));
        $cloud = Formats::read($file)->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame([1.0, 2.5, 3.25, 7.0, -2.5, -3.25], $cloud->positions);
        self::assertSame([0xFF8000, 0x000102], $cloud->colours);
        self::assertSame([0.5, 0.25], $cloud->confidence);
    }

    #[Test]
    public function a_mesh_is_not_streamed_and_keeps_which_faces_were_filled(): void
    {
        $mesh = MeshBuilder::icosphere(2);
        $marked = $mesh::fromFlat($mesh->positions, $mesh->faces, [], array_map(fn (int $t) => $t % 2, range(0, $mesh->faceCount() - 1)));
        Formats::write("$this->folder/a.ply", $marked);
        self::assertNull(Formats::intoBlob("$this->folder/a.ply", "$this->folder/a.blob"));
        $read = Formats::read("$this->folder/a.ply")->geometry;
        self::assertInstanceOf($mesh::class, $read);
        self::assertSame([$marked->faces, $marked->origin], [$read->faces, $read->origin]);
    }

    #[Test]
    public function two_million_points_are_read_in_sixty_four_megabytes(): void
    {
        $file = $this->put('large.xyz', str_repeat("1.25 2.5 3.75\n", 1_999_999)."4 5 6\n");
        [$read] = (new ReadApart(memoryMb: 64))([$file], $this->folder, 1, new NoProgress);
        self::assertIsArray($read);
        self::assertSame([2_000_000, 2.75], [$read[0]->points, $read[0]->size]);
    }

    #[Test]
    public function columns_are_guessed_from_the_first_lines_and_shown(): void
    {
        $file = $this->put('a.txt', "# a pass\nX Y Z I R G B\n".str_repeat("1.5 2.5 3.5 0.25 255 0 17\n", 20));
        self::assertSame(
            ['lines' => [['1.5', '2.5', '3.5', '0.25', '255', '0', '17'], ['1.5', '2.5', '3.5', '0.25', '255', '0', '17']], 'columns' => ['x', 'y', 'z', 'skip', 'red', 'green', 'blue'], 'heading' => 1],
            (new Xyz)->look($file, many: 2),
        );
        $file = $this->put('b.csv', "0;0;1;10;20;30\n1;0;0;11;21;31\n");
        self::assertSame(['x', 'y', 'z', 'red', 'green', 'blue'], (new Xyz)->look($file)['columns']);
    }

    #[Test]
    public function columns_that_were_said_are_taken(): void
    {
        $file = $this->put('a.csv', "0,0,1,10,20,30,0.75\n1,0,0,11,21,31,0.5\n");
        $cloud = Formats::each($file, TextColumns::of(['nx', 'ny', 'nz', 'y', 'x', 'z', 'confidence']))[0]->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame([20.0, 10.0, 30.0, 21.0, 11.0, 31.0], $cloud->positions);
        self::assertSame([0.0, 0.0, 1.0, 1.0, 0.0, 0.0], $cloud->normals);
        self::assertSame([0.75, 0.5], $cloud->confidence);
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage('line 1: there is no number in column 8');
        Formats::each($file, TextColumns::of(['x', 'y', 'skip', 'skip', 'skip', 'skip', 'skip', 'z']));
    }

    /** @return iterable<string, array{list<string>, string}> */
    public static function badColumns(): iterable
    {
        yield 'no z' => [['x', 'y', 'skip'], 'has no z'];
        yield 'x twice' => [['x', 'y', 'z', 'x'], 'names x 2 times'];
        yield 'a word it does not know' => [['x', 'y', 'z', 'heat'], 'names "heat" for column 4'];
    }

    /** @param  list<string>  $roles */
    #[Test]
    #[DataProvider('badColumns')]
    public function columns_without_sense_are_refused(array $roles, string $why): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($why);
        TextColumns::of($roles);
    }

    private static function structured(): PointCloud
    {
        // Three columns, two rows; nothing came back on the ray in row 1, column 0.
        return PointCloud::fromFlat([1.0, 0.0, 5.0, 2.0, 0.0, 5.0, 3.0, 0.0, 5.5, 2.0, 1.0, 6.0, 3.0, 1.0, 6.5], [], [1, 2, 3, 4, 5], [0.5, 0.25, 0.0], [], Raster::of(3, 2, [0, 1, 2, 4, 5]));
    }

    /** @return iterable<string, array{string}> */
    public static function structuredFormats(): iterable
    {
        yield 'E57' => ['e57'];
        yield 'PTX' => ['ptx'];
    }

    #[Test]
    #[DataProvider('structuredFormats')]
    public function the_grid_of_rays_survives_a_file_a_blob_a_move_and_a_mask(string $ending): void
    {
        $cloud = self::structured();
        $metres = new WriteOptions(unit: \Emberstone\Core\Foundation\Unit::Metre);
        Formats::write("$this->folder/a.$ending", $cloud, $metres);
        $loaded = Formats::each("$this->folder/a.$ending")[0];
        $read = $loaded->placed();
        self::assertInstanceOf(PointCloud::class, $read);
        self::assertNotNull($read->raster);
        self::assertSame([3, 2], [$read->raster->columns, $read->raster->rows]);
        // Point by ray, whatever the order in the file.
        $at = fn (PointCloud $of): array => array_map(fn (int $i) => $i < 0 ? null : array_slice($of->positions, 3 * $i, 3), $of->raster?->points() ?? []);
        self::assertEqualsWithDelta($at($cloud), $at($read), 1e-6);
        self::assertEqualsWithDelta(1 / 6, $read->raster->empty(), 1e-12);
        self::assertEqualsWithDelta([0.5, 0.25, 0.0], $read->sensorOrigin, 1e-6);

        $again = Blob::decode(Blob::encode($read));
        self::assertInstanceOf(PointCloud::class, $again);
        self::assertSame($read->raster->cells, $again->raster?->cells);
        $moved = $cloud->transformed(RigidTransform::shift(1.0, 0.0, 0.0))->kept("\1\0\1\0\1");
        self::assertSame([0, 2, 5], $moved->raster?->cells);
    }

    #[Test]
    public function a_cloud_without_rays_is_not_written_as_ptx(): void
    {
        $this->expectExceptionMessage('PTX holds the grid of rays');
        Formats::write("$this->folder/a.ptx", PointCloud::fromFlat([0.0, 0.0, 0.0]));
    }
}
