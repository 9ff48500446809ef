<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** glTF 2.0 as text and as GLB. */
final class GltfTest extends TestCase
{
    use OwnFolder;

    /**
     * A tetrahedron with a corner in the origin and edges of 6 along the axes, volume 36, with changes.
     *
     * @param  array<string, mixed>  $changes
     * @return array<string, mixed>
     */
    private static function tetrahedron(array $changes = []): array
    {
        $data = pack('g12', 0, 0, 0, 6, 0, 0, 0, 6, 0, 0, 0, 6).pack('C12', 0, 2, 1, 0, 1, 3, 1, 2, 3, 2, 0, 3);

        return array_replace_recursive([
            'asset' => ['version' => '2.0'], 'scenes' => [['nodes' => [0]]], 'nodes' => [['mesh' => 0]],
            'meshes' => [['primitives' => [['attributes' => ['POSITION' => 0], 'indices' => 1]]]],
            'accessors' => [
                ['bufferView' => 0, 'componentType' => 5126, 'count' => 4, 'type' => 'VEC3'],
                ['bufferView' => 1, 'componentType' => 5121, 'count' => 12, 'type' => 'SCALAR'],
            ],
            'bufferViews' => [['buffer' => 0, 'byteLength' => 48], ['buffer' => 0, 'byteOffset' => 48, 'byteLength' => 12]],
            'buffers' => [['byteLength' => 60, 'uri' => 'data:application/octet-stream;base64,'.base64_encode($data)]],
        ], $changes);
    }

    /** @param  array<string, mixed>|string  $json */
    private function put(array|string $json, string $name = 'a.gltf'): string
    {
        file_put_contents("$this->folder/$name", is_string($json) ? $json : json_encode($json, JSON_THROW_ON_ERROR));

        return "$this->folder/$name";
    }

    private function mesh(string $path): TriangleMesh
    {
        $mesh = Formats::read($path)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    #[Test]
    public function nodes_turn_stretch_shift_and_mirror_what_hangs_on_them(): void
    {
        $half = sqrt(0.5);
        $mesh = $this->mesh($this->put(self::tetrahedron(['nodes' => [
            // Stretched by 2 along X first, a quarter turn about Z, then shifted; the child is mirrored before all that.
            ['mesh' => null, 'translation' => [10, 0, 0], 'rotation' => [0, 0, $half, $half], 'scale' => [2, 1, 1], 'children' => [1]],
            ['mesh' => 0, 'matrix' => [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]],
        ]])));
        // Twice the volume, facing outwards in spite of the mirror.
        self::assertEqualsWithDelta(72.0, Measure::volume($mesh->positions, $mesh->faces), 1e-9);
        $x = $y = [];
        for ($o = 0; $o < 12; $o += 3) {
            $x[] = $mesh->positions[$o];
            $y[] = $mesh->positions[$o + 1];
        }
        self::assertEqualsWithDelta([4.0, 10.0, -12.0, 0.0], [min($x), max($x), min($y), max($y)], 1e-9);
    }

    #[Test]
    public function a_mesh_used_twice_is_two_things_and_their_union_when_read_as_one(): void
    {
        $path = $this->put(self::tetrahedron(['scenes' => [['nodes' => [0, 1]]], 'nodes' => [['mesh' => 0, 'name' => 'cap'], ['mesh' => 0, 'name' => 'bush', 'translation' => [0, 0, 20]]]]));
        self::assertSame(['cap', 'bush'], array_map(fn ($thing) => $thing->name, Formats::each($path)));
        self::assertEqualsWithDelta(72.0, Measure::volume($this->mesh($path)->positions, $this->mesh($path)->faces), 1e-9);
        self::assertSame(Unit::Metre, Formats::read($path)->unit);
    }

    #[Test]
    public function strips_fans_and_points_are_read(): void
    {
        $square = pack('g12', 0, 0, 0, 2, 0, 0, 0, 2, 0, 2, 2, 0);
        $uri = 'data:application/octet-stream;base64,'.base64_encode($square);
        $of = fn (int $mode, array $more = []) => $this->put(['asset' => ['version' => '2.0'], 'nodes' => [['mesh' => 0]], 'meshes' => [['primitives' => [['attributes' => ['POSITION' => 0], 'mode' => $mode] + $more]]],
            'accessors' => [['bufferView' => 0, 'componentType' => 5126, 'count' => 4, 'type' => 'VEC3']], 'bufferViews' => [['buffer' => 0, 'byteLength' => 48]], 'buffers' => [['byteLength' => 48, 'uri' => $uri]]]);
        $strip = $this->mesh($of(5));
        self::assertSame([0, 1, 2, 1, 3, 2], $strip->faces);
        self::assertSame(2, $this->mesh($of(6))->faceCount());
        $cloud = Formats::read($of(0))->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame(4, $cloud->count());
    }

    #[Test]
    public function sparse_and_normalised_and_interleaved_numbers_are_read(): void
    {
        // Shorts of 32767 are 1; every place is followed by four bytes of something else; the last corner is replaced.
        $data = '';
        foreach ([[0, 0, 0], [32767, 0, 0], [0, 32767, 0]] as $corner) {
            $data .= pack('s3', ...$corner)."\0\0".'junk';
        }
        $data .= pack('v', 2)."\0\0".pack('s3', -32767, 32767, 0)."\0\0";
        $mesh = $this->mesh($this->put(['asset' => ['version' => '2.0'], 'extensionsRequired' => ['KHR_mesh_quantization'], 'nodes' => [['mesh' => 0]],
            'meshes' => [['primitives' => [['attributes' => ['POSITION' => 0]]]]],
            'accessors' => [['bufferView' => 0, 'componentType' => 5122, 'normalized' => true, 'count' => 3, 'type' => 'VEC3',
                'sparse' => ['count' => 1, 'indices' => ['bufferView' => 1, 'componentType' => 5123], 'values' => ['bufferView' => 2]]]],
            'bufferViews' => [['buffer' => 0, 'byteLength' => 36, 'byteStride' => 12], ['buffer' => 0, 'byteOffset' => 36, 'byteLength' => 2], ['buffer' => 0, 'byteOffset' => 40, 'byteLength' => 6]],
            'buffers' => [['byteLength' => 48, 'uri' => 'data:application/octet-stream;base64,'.base64_encode($data)]]]));
        self::assertEqualsWithDelta([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, -1.0, 1.0, 0.0], $mesh->positions, 1e-12);
    }

    #[Test]
    public function data_beside_the_file_are_found_in_its_own_folder_only(): void
    {
        $json = self::tetrahedron();
        $bytes = (string) base64_decode(substr($json['buffers'][0]['uri'], strlen('data:application/octet-stream;base64,')), true);
        mkdir("$this->folder/in");
        file_put_contents("$this->folder/secret.bin", $bytes);
        file_put_contents("$this->folder/in/data file.bin", $bytes);
        $json['buffers'][0]['uri'] = 'data%20file.bin';
        self::assertSame(4, $this->mesh($this->put($json, 'in/a.gltf'))->faceCount());
        $json['buffers'][0]['uri'] = '../secret.bin';
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage('beside it in "secret.bin"');
        Formats::read($this->put($json, 'in/a.gltf'));
    }

    #[Test]
    public function what_is_written_is_read_again_with_faces_and_colours(): void
    {
        $sphere = MeshBuilder::icosphere(3);
        foreach (['glb', 'gltf'] as $ending) {
            Formats::write("$this->folder/s.$ending", $sphere);
            $back = $this->mesh("$this->folder/s.$ending");
            self::assertSame($sphere->faces, $back->faces);
            self::assertEqualsWithDelta(Measure::volume($sphere->positions, $sphere->faces), 1e9 * Measure::volume($back->positions, $back->faces), 1e-4);
        }
        self::assertSame('{', ((string) file_get_contents("$this->folder/s.gltf"))[0]);
        Formats::write("$this->folder/c.glb", PointCloud::fromFlat([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], [], [0x102030, 0xFFFEFD]));
        $cloud = Formats::read("$this->folder/c.glb")->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame([0x102030, 0xFFFEFD], $cloud->colours);
    }

    /** @return iterable<string, array{array<string, mixed>|string, string}> */
    public static function damaged(): iterable
    {
        $t = self::tetrahedron(...);
        yield 'no JSON' => ['hello', 'it is no glTF'];
        yield 'no asset' => ['{}', 'there is no "asset"'];
        yield 'a list' => ['[1]', 'there is no "asset"'];
        yield 'too deep' => [str_repeat('[', 1000).str_repeat(']', 1000), 'it is no glTF'];
        yield 'version 1' => [$t(['asset' => ['version' => '1.0']]), 'version 2 of glTF'];
        yield 'compressed' => [$t(['extensionsRequired' => ['KHR_draco_mesh_compression']]), 'write the file without compression'];
        yield 'a node that is not there' => [$t(['scenes' => [['nodes' => [7]]]]), 'a node is named that is not there'];
        yield 'a circle of nodes' => [$t(['nodes' => [['children' => [0]]]]), 'in a circle'];
        yield 'a tree that doubles' => [$t(['nodes' => [...array_map(fn (int $k) => ['mesh' => null, 'children' => [$k + 1, $k + 1]], range(0, 40)), []]]), 'in a circle'];
        yield 'a mesh that is not there' => [$t(['nodes' => [['mesh' => 5]]]), 'a mesh is named that is not there'];
        yield 'no places' => [$t(['meshes' => [['primitives' => [['attributes' => ['POSITION' => null]]]]]]), 'has no places'];
        yield 'an accessor that is not there' => [$t(['meshes' => [['primitives' => [['attributes' => ['POSITION' => 9]]]]]]), 'accessors: number 9'];
        yield 'a view that is not there' => [$t(['accessors' => [['bufferView' => 9]]]), 'bufferViews: number 9'];
        yield 'a kind that is not there' => [$t(['accessors' => [['componentType' => 1]]]), 'a kind that is not known'];
        yield 'pairs for places' => [$t(['accessors' => [['type' => 'VEC2']]]), 'elements of 3 numbers'];
        yield 'a type that is not there' => [$t(['accessors' => [['type' => 'VEC9']]]), 'its type is not known'];
        yield 'more elements than bytes' => [$t(['accessors' => [['count' => 5]]]), 'reaches beyond its data'];
        yield 'elements beyond counting' => [$t(['accessors' => [['count' => PHP_INT_MAX >> 8]]]), 'reaches beyond its data'];
        yield 'a negative count' => [$t(['accessors' => [['count' => -4]]]), 'one or more elements'];
        yield 'a negative offset' => [$t(['bufferViews' => [['byteOffset' => -8]]]), 'reaches beyond its data'];
        yield 'a stride of nothing' => [$t(['bufferViews' => [['byteStride' => 1]]]), 'reaches beyond its data'];
        yield 'a view beyond its buffer' => [$t(['bufferViews' => [['byteLength' => 4800]], 'accessors' => [['count' => 400]]]), 'reaches beyond its data'];
        yield 'zeros without end' => [$t(['accessors' => [['bufferView' => null, 'count' => 2_000_000_000]]]), 'more elements than the file could hold'];
        yield 'a vertex that is not there' => [$t(['accessors' => [['count' => 3]]]), 'a face names vertex 3, but there are 3'];
        yield 'a buffer in damaged text' => [$t(['buffers' => [['uri' => 'data:;base64,!!!']]]), 'its text is damaged'];
        yield 'a buffer elsewhere' => [$t(['buffers' => [['uri' => 'lost.bin']]]), 'should lie beside it in "lost.bin"'];
        yield 'a buffer of the machine' => [$t(['buffers' => [['uri' => '/etc/hostname']]]), 'should lie beside it in "hostname"'];
        yield 'a buffer with a hidden name' => [$t(['buffers' => [['uri' => '../../.env']]]), 'should lie beside it'];
        yield 'no number' => [$t(['buffers' => [['uri' => 'data:;base64,'.base64_encode(pack('g12', NAN, 0, 0, 6, 0, 0, 0, 6, 0, 0, 0, 6).str_repeat("\0", 12))]]]), 'a number that is not finite'];
        yield 'a matrix of words' => [$t(['nodes' => [['matrix' => array_fill(0, 16, 'x')]]]), 'not 16 finite numbers'];
        yield 'a short rotation' => [$t(['nodes' => [['rotation' => [0, 0, 1]]]]), 'not 4 finite numbers'];
        yield 'lines alone' => [$t(['meshes' => [['primitives' => [['mode' => 1]]]]]), 'neither faces nor points'];
        yield 'nothing drawn' => [['asset' => ['version' => '2.0']], 'neither faces nor points'];
    }

    /** @param  array<string, mixed>|string  $json */
    #[Test]
    #[DataProvider('damaged')]
    public function damaged_gltf_is_refused_with_place_and_reason(array|string $json, string $reason): void
    {
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage($reason);
        Formats::read($this->put($json));
    }

    #[Test]
    public function every_truncation_of_a_glb_is_refused(): void
    {
        Formats::write("$this->folder/a.glb", MeshBuilder::icosphere(1));
        $whole = (string) file_get_contents("$this->folder/a.glb");
        for ($at = 1; $at < strlen($whole); $at += 37) {
            try {
                Formats::read($this->put(substr($whole, 0, $at), 'b.glb'));
                self::fail("cut at byte $at it was read");
            } catch (UnreadableFile $problem) {
                self::assertStringStartsWith('b.glb', $problem->getMessage());
            }
        }
    }

    #[Test]
    public function made_up_faces_have_a_material_of_their_name_and_the_shape_stays_the_same(): void
    {
        $mesh = MeshBuilder::icosphere(1, 10.0);
        $origin = array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED);
        $origin[3] = $origin[7] = TriangleMesh::FILLED;
        $origin[9] = TriangleMesh::MADE;
        $marked = TriangleMesh::fromFlat($mesh->positions, $mesh->faces, [], $origin);
        Formats::write("$this->folder/a.gltf", $marked, new WriteOptions(ascii: true));
        $json = json_decode((string) file_get_contents("$this->folder/a.gltf"), true);
        self::assertSame(['measured', 'filled', 'made'], array_column($json['materials'], 'name'));
        $faces = array_map(fn (array $primitive) => [$json['materials'][$primitive['material']]['name'], intdiv($json['accessors'][$primitive['indices']]['count'], 3)], $json['meshes'][0]['primitives']);
        self::assertSame([['measured', $mesh->faceCount() - 3], ['filled', 2], ['made', 1]], $faces);
        Formats::write("$this->folder/a.glb", $marked);
        $back = Formats::read("$this->folder/a.glb")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $back);
        self::assertSame([$mesh->faceCount(), $mesh->vertexCount()], [$back->faceCount(), $back->vertexCount()]);
        self::assertEqualsWithDelta(Measure::volume($mesh->positions, $mesh->faces), 1e9 * Measure::volume($back->positions, $back->faces), 1e-3);
        // One that was measured all over has none.
        Formats::write("$this->folder/b.gltf", $mesh, new WriteOptions(ascii: true));
        self::assertArrayNotHasKey('materials', json_decode((string) file_get_contents("$this->folder/b.gltf"), true));
    }
}
