<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FormatsTest extends TestCase
{
    use OwnFolder;

    /** @return array<string, array{string, bool}> */
    public static function meshFormats(): array
    {
        return ['ply binary' => ['ply', false], 'ply ascii' => ['ply', true], 'stl binary' => ['stl', false], 'stl ascii' => ['stl', true], 'obj' => ['obj', false], 'off' => ['off', false], '3mf' => ['3mf', false]];
    }

    #[Test]
    #[DataProvider('meshFormats')]
    public function a_mesh_comes_back_with_the_same_faces_and_places_within_1e_6(string $ending, bool $ascii): void
    {
        $mesh = MeshBuilder::icosphere(2, 10.0);
        Formats::write("$this->folder/a.$ending", $mesh, new WriteOptions($ascii));
        $back = Formats::read("$this->folder/a.$ending")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $back);
        self::assertSame(320, $back->faceCount());
        self::assertSame(162, $back->vertexCount());
        self::assertSame(0, MeshBuilder::badEdges($back));
        for ($h = 0; $h < 960; $h++) {
            for ($k = 0; $k < 3; $k++) {
                self::assertEqualsWithDelta($mesh->positions[3 * $mesh->faces[$h] + $k], $back->positions[3 * $back->faces[$h] + $k], 1e-6);
            }
        }
    }

    #[Test]
    public function zero_and_minus_zero_are_one_place_in_a_binary_stl(): void
    {
        $facet = fn (float $zero) => pack('g12v', 0, 0, 1, $zero, 0.0, 1.0, 5.0, $zero, 1.0, 0.0, 7.0, 1.0, 0);
        file_put_contents("$this->folder/z.stl", str_repeat(' ', 80).pack('V', 2).$facet(0.0).$facet(-0.0));
        $mesh = Formats::read("$this->folder/z.stl")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        self::assertSame(3, $mesh->vertexCount());
    }

    #[Test]
    public function a_binary_stl_with_an_infinite_coordinate_is_refused_at_its_vertex(): void
    {
        file_put_contents("$this->folder/i.stl", str_repeat(' ', 80).pack('V', 1).pack('g12v', 0, 0, 1, 0, 0, 1, 5, 0, 1, 0, INF, 1, 0));
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessageMatches('/vertex 2.*not a finite number/');
        Formats::read("$this->folder/i.stl");
    }

    #[Test]
    public function a_cloud_keeps_normals_colours_and_sensor_in_ply(): void
    {
        $cloud = PointCloud::fromFlat([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], [0.0, 0.0, 1.0, 1.0, 0.0, 0.0], [0xFF8000, 0x0102FF], [7.0, 8.0, 9.5]);
        foreach ([true, false] as $ascii) {
            Formats::write("$this->folder/c.ply", $cloud, new WriteOptions($ascii, Unit::Inch));
            $loaded = Formats::read("$this->folder/c.ply");
            self::assertEquals($cloud, $loaded->geometry);
            self::assertSame(Unit::Inch, $loaded->unit);
        }
    }

    #[Test]
    public function reads_big_endian_ply_with_other_properties_between(): void
    {
        file_put_contents("$this->folder/b.ply", "ply\nformat binary_big_endian 1.0\nelement vertex 3\nproperty uchar q\nproperty double x\nproperty float y\nproperty short z\nelement face 1\nproperty list uchar ushort vertex_index\nend_header\n"
            .pack('CEGn', 9, 1.5, 2.5, 3).pack('CEGn', 9, 4.5, 5.5, 6).pack('CEGn', 9, 0.5, 0.25, 1).pack('Cn3', 3, 2, 1, 0));
        $mesh = Formats::read("$this->folder/b.ply")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        self::assertSame([1.5, 2.5, 3.0, 4.5, 5.5, 6.0, 0.5, 0.25, 1.0], $mesh->positions);
        self::assertSame([2, 1, 0], $mesh->faces);
    }

    #[Test]
    public function cuts_a_concave_polygon_into_triangles_of_the_same_area(): void
    {
        file_put_contents("$this->folder/p.obj", "v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf 1/1/1 2//2 3 -2 5\n");
        $mesh = Formats::read("$this->folder/p.obj")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        self::assertSame(3, $mesh->faceCount());
        self::assertEqualsWithDelta(10.0, array_sum(\Emberstone\Core\Algorithms\Surface\Measure::areas($mesh->positions, $mesh->faces)), 1e-12);
    }

    #[Test]
    public function recognises_the_columns_of_a_text_file(): void
    {
        file_put_contents("$this->folder/t.csv", "x,y,z,r,g,b,nx,ny,nz\n1,2,3,255,128,0,0,0,1\n4,5,6,1,2,3,0,1,0\n");
        $cloud = Formats::read("$this->folder/t.csv")->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], $cloud->positions);
        self::assertSame([0xFF8000, 0x010203], $cloud->colours);
        self::assertSame([0.0, 0.0, 1.0, 0.0, 1.0, 0.0], $cloud->normals);
    }

    /** @return array<string, array{string, string, string}> */
    public static function damaged(): array
    {
        return [
            'not a ply' => ['a.ply', "hello\n", 'begins with the word "ply"'],
            'huge count' => ['a.ply', "ply\nformat binary_little_endian 1.0\nelement vertex 999999999\nproperty float x\nproperty float y\nproperty float z\nend_header\n", 'the file ends before them'],
            'nan' => ['a.ply', "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 nan 2\n", 'line 8'],
            'bad face' => ['a.ply', "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n3 0 0 7\n", 'names vertex 7'],
            'empty' => ['a.stl', '', 'is empty'],
            'short stl' => ['a.stl', str_repeat(' ', 80).pack('V', 12).'xx', 'promises 12 facets'],
            'obj index' => ['a.obj', "v 0 0 0\nf 1 2 3\n", 'line 2'],
            'no numbers' => ['a.xyz', "once upon a time\n", 'no line holds three numbers'],
            'ending' => ['a.doc', 'x', 'Bring in one of these: ply, stl, obj, 3mf, e57, glb, off, xyz'],
        ];
    }

    #[Test]
    #[DataProvider('damaged')]
    public function damaged_input_is_refused_with_file_and_reason(string $name, string $bytes, string $reason): void
    {
        file_put_contents("$this->folder/$name", $bytes);
        try {
            Formats::read("$this->folder/$name");
            self::fail('it was read');
        } catch (UnreadableFile $problem) {
            self::assertStringContainsString($name, $problem->getMessage());
            self::assertStringContainsString($reason, $problem->getMessage());
            self::assertStringNotContainsString($this->folder, $problem->getMessage());
        }
    }

    #[Test]
    #[DataProvider('meshFormats')]
    public function any_truncation_or_flipped_byte_is_read_or_refused_but_never_crashes(string $ending, bool $ascii): void
    {
        Formats::write("$this->folder/a.$ending", MeshBuilder::icosphere(1), new WriteOptions($ascii));
        $whole = (string) file_get_contents("$this->folder/a.$ending");
        $gen = new Gen(crc32($ending.($ascii ? 'a' : 'b')));
        set_error_handler(fn (int $level, string $message) => (error_reporting() & $level) === 0 ? false : throw new \ErrorException("seed {$gen->seed}: $message"));
        $answers = 0;
        try {
            for ($k = 0; $k < 120; $k++) {
                $bytes = $k % 2 === 0 ? substr($whole, 0, $gen->int(0, strlen($whole) - 1)) : substr_replace($whole, chr($gen->int(0, 255)), $gen->int(0, strlen($whole) - 1), 1);
                file_put_contents("$this->folder/b.$ending", $bytes);
                clearstatcache();
                try {
                    Formats::read("$this->folder/b.$ending");
                } catch (EmberstoneException) {
                }
                $answers++;
            }
        } finally {
            restore_error_handler();
        }
        self::assertSame(120, $answers);
    }

    #[Test]
    public function nothing_half_written_is_left_when_writing_fails(): void
    {
        try {
            Formats::write("$this->folder/c.stl", PointCloud::fromFlat([0.0, 0.0, 0.0]));
            self::fail('a cloud was written as STL');
        } catch (EmberstoneException) {
            self::assertSame([], glob("$this->folder/*"));
        }
    }

    #[Test]
    public function a_blob_gives_back_its_mesh_with_evidence_and_exact_origin(): void
    {
        $mesh = MeshBuilder::icosphere(1, 5.0);
        $mesh = TriangleMesh::fromFlat(array_map(fn (float $v) => $v + 1000.0, $mesh->positions), $mesh->faces, array_fill(0, 42, 3), [...array_fill(0, 79, 0), 1]);
        $bytes = Blob::encode($mesh);
        $back = Blob::decode($bytes);
        self::assertInstanceOf(TriangleMesh::class, $back);
        self::assertSame([$mesh->faces, $mesh->support, $mesh->origin], [$back->faces, $back->support, $back->origin]);
        self::assertEqualsWithDelta($mesh->positions, $back->positions, 1e-6);
        foreach (Blob::head($bytes)['sections'] as $section) {
            self::assertSame(0, $section['offset'] % 8);
        }
    }

    #[Test]
    public function an_open_blob_reads_the_records_that_the_whole_one_holds(): void
    {
        $mesh = MeshBuilder::icosphere(4, 5.0);
        $bytes = Blob::encode($mesh);
        file_put_contents("$this->folder/a.blob", $bytes);
        $head = Blob::head($bytes);
        $file = OpenBlob::file("$this->folder/a.blob");
        self::assertSame($head, $file->head);
        $records = fn (string $section, string $format, int $size): array => array_chunk(array_values(unpack($format, Blob::section($bytes, $head, $section)) ?: []), $size);
        foreach ([$file, OpenBlob::bytes($bytes)] as $blob) {
            foreach (['faces', 'adjacency'] as $section) {
                $all = $records($section, 'V*', 3);
                self::assertCount(5120, $all);
                foreach ($all as $k => $record) {
                    self::assertSame($record, $blob->ints($section, $k), "$section $k");
                }
            }
            foreach ($records('positions', 'g*', 3) as $k => $record) {
                self::assertSame($record, $blob->position($k), "vertex $k");
            }
            // In no order and more than are kept: pages go and come back.
            for ($k = 0; $k < 20000; $k++) {
                $face = $k * 7919 % 5120;
                self::assertSame(array_merge(...array_map($blob->position(...), $blob->ints('faces', $face))), $blob->triangle($face));
            }
        }
        $this->expectException(UnreadableFile::class);
        OpenBlob::file("$this->folder/gone.blob");
    }
}
