<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\OwnFile;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;
use ZipArchive;

/** 3MF containers, gzip, and PTS text. */
final class PackedFormatsTest extends TestCase
{
    private const TETRAHEDRON = '<vertices><vertex x="0" y="0" z="0"/><vertex x="6" y="0" z="0"/><vertex x="0" y="6" z="0"/><vertex x="0" y="0" z="6"/></vertices>'
        .'<triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="2" v2="0" v3="3"/></triangles>';

    use OwnFolder;

    /** @param  array<string, string>  $parts  path => text; a string alone is the root model */
    private function container(array|string $parts, string $name = 'a.3mf'): string
    {
        $zip = new ZipArchive;
        $zip->open("$this->folder/$name", ZipArchive::CREATE | ZipArchive::OVERWRITE);
        foreach (is_string($parts) ? ['3D/3dmodel.model' => $parts] : $parts as $path => $text) {
            $zip->addFromString($path, $text);
        }
        $zip->close();

        return "$this->folder/$name";
    }

    private function model(string $resources, string $build, string $unit = 'millimeter'): string
    {
        return '<?xml version="1.0" encoding="UTF-8"?><model unit="'.$unit.'" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" '
            .'xmlns:p="http://schemas.microsoft.com/3dmanufacturing/production/2015/06"><resources>'.$resources.'</resources><build>'.$build.'</build></model>';
    }

    private function mesh(string $path): TriangleMesh
    {
        $mesh = Formats::read($path)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    #[Test]
    public function items_are_placed_by_their_transforms_and_a_mirrored_one_still_faces_outwards(): void
    {
        $path = $this->container($this->model('<object id="1" type="model"><mesh>'.self::TETRAHEDRON.'</mesh></object>', '<item objectid="1"/><item objectid="1" transform="1 0 0 0 1 0 0 0 1 100 0 0"/><item objectid="1" transform="-1 0 0 0 1 0 0 0 1 -50 0 0"/>'));
        $mesh = $this->mesh($path);
        self::assertSame(12, $mesh->faceCount());
        // Three tetrahedra of 36 each, none of them inside out.
        self::assertEqualsWithDelta(108.0, Measure::volume($mesh->positions, $mesh->faces), 1e-9);
        self::assertSame(106.0, max($mesh->positions));
        self::assertSame(-56.0, min($mesh->positions));
    }

    #[Test]
    public function components_stand_in_each_other_and_in_other_parts(): void
    {
        $far = $this->model('<object id="7" type="model"><mesh>'.self::TETRAHEDRON.'</mesh></object>', '');
        $root = $this->model(
            '<object id="2" type="model"><components><component objectid="7" p:path="/3D/far.model" transform="2 0 0 0 2 0 0 0 2 0 0 1"/></components></object>',
            '<item objectid="2" transform="1 0 0 0 1 0 0 0 1 10 0 0"/>',
        );
        $mesh = $this->mesh($this->container(['_rels/.rels' => '<Relationships><Relationship Target="/3D/root.model" Id="a" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>', '3D/far.model' => $far, '3D/root.model' => $root]));
        self::assertEqualsWithDelta(8 * 36.0, Measure::volume($mesh->positions, $mesh->faces), 1e-9);
        // Inner first: doubled and lifted by 1, then moved by 10.
        self::assertSame([10.0, 0.0, 1.0, 22.0, 0.0, 1.0], array_slice($mesh->positions, 0, 6));
    }

    #[Test]
    public function the_unit_is_kept_and_microns_become_millimetres(): void
    {
        $object = '<object id="1" type="model"><mesh>'.self::TETRAHEDRON.'</mesh></object>';
        self::assertSame(Unit::Inch, Formats::read($this->container($this->model($object, '<item objectid="1"/>', 'inch')))->unit);
        $micron = Formats::read($this->container($this->model($object, '<item objectid="1"/>', 'micron')));
        self::assertSame(Unit::Millimetre, $micron->unit);
        self::assertEqualsWithDelta(0.006, max($micron->geometry->positions), 1e-15);
        Formats::write("$this->folder/w.3mf", MeshBuilder::icosphere(1), new WriteOptions(unit: Unit::Foot));
        self::assertSame(Unit::Foot, Formats::read("$this->folder/w.3mf")->unit);
    }

    #[Test]
    public function what_is_written_is_a_container_of_three_named_parts(): void
    {
        Formats::write("$this->folder/w.3mf", MeshBuilder::icosphere(0));
        $zip = new ZipArchive;
        $zip->open("$this->folder/w.3mf");
        self::assertSame(['[Content_Types].xml', '_rels/.rels', '3D/3dmodel.model'], array_map($zip->getNameIndex(...), [0, 1, 2]));
        self::assertSame(20, substr_count((string) $zip->getFromName('3D/3dmodel.model'), '<triangle '));
    }

    /** @return iterable<string, array{array<string, string>|string, string}> */
    public static function hostile(): iterable
    {
        $wrap = fn (string $resources, string $build = '<item objectid="1"/>') => '<model unit="millimeter"><resources>'.$resources.'</resources><build>'.$build.'</build></model>';
        $object = fn (string $mesh) => '<object id="1"><mesh>'.$mesh.'</mesh></object>';
        yield 'entities' => ['<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>'.$wrap($object('&b;')), 'declares a document type'];
        yield 'an entity from outside' => ['<!DOCTYPE m [<!ENTITY x SYSTEM "file:///etc/hostname">]>'.$wrap($object('&x;')), 'declares a document type'];
        yield 'a circle of components' => [$wrap('<object id="1"><components><component objectid="1"/></components></object>'), 'in a circle'];
        yield 'a vertex that is not there' => [$wrap($object('<vertices><vertex x="0" y="0" z="0"/></vertices><triangles><triangle v1="0" v2="0" v3="9"/></triangles>')), 'triangle 0: it names a vertex that is not there; there are 1'];
        yield 'a negative vertex' => [$wrap($object('<vertices><vertex x="0" y="0" z="0"/></vertices><triangles><triangle v1="-1" v2="0" v3="0"/></triangles>')), 'not there'];
        yield 'no number' => [$wrap($object('<vertices><vertex x="zero" y="0" z="0"/></vertices>')), 'vertex 0: x is not a finite number'];
        yield 'an endless number' => [$wrap($object('<vertices><vertex x="1e999" y="0" z="0"/></vertices>')), 'x is not a finite number'];
        yield 'a short transform' => [$wrap($object(self::TETRAHEDRON), '<item objectid="1" transform="1 2 3"/>'), 'twelve numbers'];
        yield 'an object that is not there' => [$wrap('', '<item objectid="4"/>'), 'object 4 is named but is not there'];
        yield 'nothing to build' => [$wrap($object(self::TETRAHEDRON), ''), 'the build holds no mesh'];
        yield 'a strange unit' => [str_replace('millimeter', 'cubit', $wrap($object(self::TETRAHEDRON))), 'the unit "cubit"'];
        yield 'cut off' => [substr($wrap($object(self::TETRAHEDRON)), 0, 200), 'the XML is damaged'];
        yield 'no XML' => ['hello', 'there is no model element'];
        yield 'no model' => [['readme.txt' => 'hello'], 'holds no model'];
        yield 'a path out of the container' => [['_rels/.rels' => '<Relationship Target="/../../../../etc/passwd" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/>', '3D/3dmodel.model' => $wrap('')], 'is named but is not there'];
        yield 'a bomb' => [$wrap($object(str_repeat(' ', 4_000_000))), 'far larger than what it was packed from'];
    }

    /** @param  array<string, string>|string  $parts */
    #[Test]
    #[DataProvider('hostile')]
    public function a_hostile_or_damaged_container_is_refused_with_its_reason(array|string $parts, string $reason): void
    {
        $path = $this->container($parts);
        try {
            Formats::read($path);
            self::fail('it was read');
        } catch (UnreadableFile $problem) {
            self::assertStringContainsString($reason, $problem->getMessage());
            self::assertStringStartsWith('a.3mf', $problem->getMessage());
        }
        self::assertSame([], OwnFile::left(), 'unpacked parts are put away');
    }

    #[Test]
    public function every_truncation_of_a_container_or_a_packed_file_is_refused(): void
    {
        Formats::write("$this->folder/w.3mf", MeshBuilder::icosphere(1));
        Formats::write("$this->folder/w.ply", MeshBuilder::icosphere(1));
        file_put_contents("$this->folder/w.ply.gz", gzencode((string) file_get_contents("$this->folder/w.ply")));
        foreach (['w.3mf' => 'cut.3mf', 'w.ply.gz' => 'cut.ply.gz'] as $name => $cut) {
            $whole = (string) file_get_contents("$this->folder/$name");
            $refused = 0;
            for ($k = 1; $k <= 20; $k++) {
                file_put_contents("$this->folder/$cut", substr($whole, 0, intdiv(strlen($whole) * $k, 21)));
                clearstatcache();
                try {
                    Formats::read("$this->folder/$cut");
                } catch (UnreadableFile) {
                    $refused++;
                }
            }
            self::assertSame(20, $refused, $name);
        }
    }

    #[Test]
    public function a_file_packed_with_gzip_is_the_file_in_it(): void
    {
        Formats::write("$this->folder/w.stl", MeshBuilder::icosphere(2));
        file_put_contents("$this->folder/w.stl.gz", gzencode((string) file_get_contents("$this->folder/w.stl")));
        $packed = Formats::read("$this->folder/w.stl.gz");
        self::assertSame('stl', $packed->format);
        self::assertEquals(Formats::read("$this->folder/w.stl")->geometry, $packed->geometry);
    }

    #[Test]
    public function a_gzip_bomb_and_a_file_that_is_no_gzip_are_refused(): void
    {
        file_put_contents("$this->folder/b.xyz.gz", gzencode(str_repeat("0 0 0\n", 2_000_000), 9));
        file_put_contents("$this->folder/n.xyz.gz", '1 2 3');
        foreach (['b.xyz.gz' => 'no scan', 'n.xyz.gz' => 'damaged'] as $name => $reason) {
            try {
                Formats::read("$this->folder/$name");
                self::fail("$name was read");
            } catch (UnreadableFile $problem) {
                self::assertStringContainsString($reason, $problem->getMessage());
            }
        }
    }

    #[Test]
    public function pts_blocks_follow_their_counts_with_intensity_before_colour(): void
    {
        file_put_contents("$this->folder/s.pts", "2\r\n1 2 3 -512 255 128 0\r\n4 5 6 100 1 2 3\r\n1\r\n7 8 9 7 10 20 30\r\n");
        $cloud = Formats::read("$this->folder/s.pts")->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame([1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0], $cloud->positions);
        self::assertSame([0xFF8000, 0x010203, 0x0A141E], $cloud->colours);
    }

    #[Test]
    public function the_items_of_a_build_are_things_of_their_own_under_their_names(): void
    {
        $object = fn (int $id, string $more) => "<object id=\"$id\" $more><mesh>".self::TETRAHEDRON.'</mesh></object>';
        $path = $this->container($this->model($object(1, 'name="cap"').$object(2, ''), '<item objectid="1"/><item objectid="2" transform="1 0 0 0 1 0 0 0 1 50 0 0"/>'));
        $things = Formats::each($path);
        self::assertSame(['cap', 'object 2'], array_map(fn ($thing) => $thing->name, $things));
        self::assertSame(50.0, min($things[1]->geometry->positions[0], $things[1]->geometry->positions[3]));
        self::assertSame(8, $this->mesh($path)->faceCount(), 'read as one, both are there');
    }

    #[Test]
    public function a_zip_with_the_passes_of_a_day_is_read_in_the_order_of_names(): void
    {
        $zip = $this->container([
            'day 1/pass-10.xyz' => "0 0 10\n1 1 10\n", 'day 1/pass-2.xyz' => "0 0 2\n1 1 2\n", 'notes.txt' => "Dear all,\nthe passes come tomorrow.\nRegards\nInes\nPress\nLane\n",
            '__MACOSX/pass-2.xyz' => 'x', 'day 1/.hidden.xyz' => 'x', 'picture.png' => 'x', 'folder/' => '', '../../../evil.xyz' => "0 0 1\n1 1 1\n",
        ], 'day.zip');
        $things = Formats::each($zip);
        self::assertSame(['evil', 'pass-2', 'pass-10'], array_map(fn ($thing) => $thing->name, $things));
        self::assertStringContainsString('notes.txt', $things[0]->notes[0]);
        self::assertFileDoesNotExist(dirname($this->folder, 3).'/evil.xyz');
        self::assertSame(6, intdiv(count(Formats::read($zip)->geometry->positions), 3));
    }

    #[Test]
    public function a_gltf_and_its_data_travel_in_one_zip_and_packed_files_too(): void
    {
        $json = ['asset' => ['version' => '2.0'], 'nodes' => [['mesh' => 0]], 'meshes' => [['primitives' => [['attributes' => ['POSITION' => 0]]]]], 'accessors' => [['bufferView' => 0, 'componentType' => 5126, 'count' => 3, 'type' => 'VEC3']],
            'bufferViews' => [['buffer' => 0, 'byteLength' => 36]], 'buffers' => [['byteLength' => 36, 'uri' => 'data/one.bin']]];
        $zip = $this->container(['model/a.gltf' => (string) json_encode($json), 'model/data/one.bin' => pack('g9', 0, 0, 0, 1, 0, 0, 0, 1, 0), 'b.obj.gz' => (string) gzencode("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")], 'a.zip');
        self::assertSame(['b', 'a'], array_map(fn ($thing) => $thing->name, Formats::each($zip)));
    }

    /** @return iterable<string, array{array<string, string>, string}> */
    public static function hostileZips(): iterable
    {
        yield 'nothing to read' => [['picture.png' => 'x'], 'holds no file that Emberstone reads'];
        yield 'a zip in a zip' => [['inner.zip' => "PK\x05\x06".str_repeat("\0", 18)], 'holds no file that Emberstone reads'];
        yield 'only damage' => [['a.ply' => 'ply'], 'a.ply'];
        yield 'a bomb' => [['a.xyz' => str_repeat(' ', 6_000_000)], 'far larger than what it was packed from'];
        yield 'clouds and meshes as one' => [['a.xyz' => "0 0 0\n1 1 1\n", 'b.obj' => "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"], 'read them one by one'];
    }

    /** @param  array<string, string>  $parts */
    #[Test]
    #[DataProvider('hostileZips')]
    public function a_hostile_zip_is_refused_and_leaves_nothing_behind(array $parts, string $reason): void
    {
        $zip = $this->container($parts, 'a.zip');
        $before = glob(sys_get_temp_dir().'/emberstone-zip-*') ?: [];
        try {
            Formats::read($zip);
            self::fail('it was read');
        } catch (UnreadableFile $problem) {
            self::assertStringContainsString($reason, $problem->getMessage());
        }
        self::assertSame($before, glob(sys_get_temp_dir().'/emberstone-zip-*') ?: []);
    }

    #[Test]
    public function a_zip_locked_with_a_password_is_refused_in_words(): void
    {
        $zip = new ZipArchive;
        $zip->open("$this->folder/locked.zip", ZipArchive::CREATE);
        $zip->addFromString('a.xyz', "0 0 0\n1 1 1\n");
        $zip->setEncryptionName('a.xyz', ZipArchive::EM_AES_256, 'cider');
        $zip->close();
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage('locked with a password');
        Formats::read("$this->folder/locked.zip");
    }

    #[Test]
    public function made_up_faces_of_a_3mf_have_colours_and_the_rest_that_of_the_object(): void
    {
        $mesh = MeshBuilder::icosphere(1);
        $origin = array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED);
        $origin[5] = TriangleMesh::FILLED;
        $origin[6] = TriangleMesh::RESHAPED;
        Formats::write("$this->folder/c.3mf", TriangleMesh::fromFlat($mesh->positions, $mesh->faces, [], $origin));
        $zip = new ZipArchive;
        $zip->open("$this->folder/c.3mf");
        $model = (string) $zip->getFromName('3D/3dmodel.model');
        $zip->close();
        self::assertStringContainsString('<m:colorgroup id="2"><m:color color="#B9AC99"/><m:color color="#3FB8A6"/><m:color color="#A793D6"/></m:colorgroup>', $model);
        self::assertSame([1, 1], [substr_count($model, 'pid="2" p1="1"'), substr_count($model, 'pid="2" p1="2"')]);
        $back = Formats::read("$this->folder/c.3mf")->geometry;
        self::assertSame($mesh->faces, $back instanceof TriangleMesh ? $back->faces : []);
    }

    #[Test]
    public function a_body_has_its_own_colour_and_material_where_it_was_measured(): void
    {
        $mesh = MeshBuilder::icosphere(1);
        $origin = array_fill(0, $mesh->faceCount(), TriangleMesh::MEASURED);
        $origin[5] = TriangleMesh::FILLED;
        $options = new WriteOptions(look: Look::from(['colour' => '#336699', 'material' => 'cast <iron>']));
        foreach (['plain' => $mesh, 'filled' => TriangleMesh::fromFlat($mesh->positions, $mesh->faces, [], $origin)] as $name => $body) {
            foreach (['3mf', 'glb'] as $format) {
                Formats::write("$this->folder/$name.$format", $body, $options);
                $back = Formats::read("$this->folder/$name.$format")->geometry;
                self::assertCount(count($mesh->faces), $back instanceof TriangleMesh ? $back->faces : [], "$name.$format");
            }
        }
        $model = function (string $name): string {
            $zip = new ZipArchive;
            $zip->open("$this->folder/$name.3mf");

            return (string) $zip->getFromName('3D/3dmodel.model');
        };
        foreach (['plain', 'filled'] as $name) {
            self::assertStringContainsString('<basematerials id="3"><base name="cast &lt;iron&gt;" displaycolor="#336699"/></basematerials>', $model($name));
            self::assertStringContainsString('<object id="1" type="model" pid="3" pindex="0">', $model($name));
        }
        self::assertSame([0, 1], [substr_count($model('plain'), 'p1='), substr_count($model('filled'), 'p1=')], 'the one face that was filled');
        self::assertSame(1, substr_count($model('filled'), 'pid="2" p1="1"'));
        $glb = (string) file_get_contents("$this->folder/filled.glb");
        $json = json_decode(substr($glb, 20, (unpack('V', substr($glb, 12, 4)) ?: [1 => 0])[1]), true);
        self::assertSame(['cast <iron>', 'filled'], array_column($json['materials'], 'name'));
        // 0x66 is 0.4 of the scale, and 0.133 as light.
        self::assertEqualsWithDelta(0.13287, $json['materials'][0]['pbrMetallicRoughness']['baseColorFactor'][1], 1e-4);
        foreach (['red', ['colour' => 'red'], ['colour' => 7], ['material' => str_repeat('x', 61)], ['material' => "a\nb"]] as $bad) {
            try {
                Look::from($bad);
                self::fail('taken: '.json_encode($bad));
            } catch (InvalidParameter $refused) {
                self::assertStringContainsString('six hexadecimal digits', $refused->getMessage());
            }
        }
    }
}
