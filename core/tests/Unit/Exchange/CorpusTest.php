<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Files as they come from the world: odd but legal ones are read, damaged and hostile ones refused with name, place and reason. */
final class CorpusTest extends TestCase
{
    private const XYZ = "property float x\nproperty float y\nproperty float z\n";

    use OwnFolder;

    private static function ply(string $elements, string $body, string $format = 'ascii'): string
    {
        return "ply\nformat $format 1.0\n{$elements}end_header\n$body";
    }

    private static function facet(float ...$numbers): string
    {
        return pack('g12v', ...array_pad($numbers, 12, 0.0), ...[0]);
    }

    private static function stl(string $head, int $count, string $facets): string
    {
        return str_pad($head, 80).pack('V', $count).$facets;
    }

    /** @return iterable<string, array{string, string, int, int}> name, bytes, points, faces */
    public static function oddButLegal(): iterable
    {
        $face = "element face 1\nproperty list uchar int vertex_indices\n";
        $three = "0 0 0\n1 0 0\n0 1 0\n";
        $facet = self::facet(0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0);
        yield 'PLY with CRLF' => ['a.ply', str_replace("\n", "\r\n", self::ply('element vertex 3'."\n".self::XYZ.$face, $three."3 0 1 2\n")), 3, 1];
        yield 'PLY with comments and obj_info' => ['a.ply', self::ply("comment made by hand\nobj_info nothing\nelement vertex 2\n".self::XYZ, "0 0 0\n1 1 1\n"), 2, 0];
        yield 'PLY with properties of its own' => ['a.ply', self::ply("element vertex 2\n".self::XYZ."property float quality\nproperty uchar flags\n", "0 0 0 0.5 7\n1 1 1 0.25 9\n"), 2, 0];
        yield 'PLY with coordinates last' => ['a.ply', self::ply("element vertex 2\nproperty float quality\n".self::XYZ, "9 0 0 0\n9 1 1 1\n"), 2, 0];
        yield 'PLY with an element of its own before' => ['a.ply', self::ply("element camera 1\nproperty float f\nelement vertex 2\n".self::XYZ, "35\n0 0 0\n1 1 1\n"), 2, 0];
        yield 'PLY with a polygon of five' => ['a.ply', self::ply("element vertex 5\n".self::XYZ.$face, "0 0 0\n2 0 0\n2 2 0\n1 3 0\n0 2 0\n5 0 1 2 3 4\n"), 5, 3];
        yield 'PLY with zero faces is a cloud' => ['a.ply', self::ply("element vertex 3\n".self::XYZ."element face 0\nproperty list uchar int vertex_indices\n", $three), 3, 0];
        yield 'PLY in doubles' => ['a.ply', self::ply("element vertex 1\n".str_replace('float', 'double', self::XYZ), pack('e3', 1e5, 2e5, 3e5), 'binary_little_endian'), 1, 0];
        yield 'PLY big-endian with shorts' => ['a.ply', self::ply("element vertex 1\n".str_replace('float', 'short', self::XYZ), pack('n3', 1, 2, 3), 'binary_big_endian'), 1, 0];
        yield 'PLY with int32 type names' => ['a.ply', self::ply("element vertex 1\n".str_replace('float', 'float32', self::XYZ), pack('g3', 1, 2, 3), 'binary_little_endian'), 1, 0];
        yield 'PLY without the last line end' => ['a.ply', self::ply("element vertex 1\n".self::XYZ, '1 2 3'), 1, 0];
        yield 'binary STL whose heading begins with "solid"' => ['a.stl', self::stl('solid but binary', 1, $facet), 3, 1];
        yield 'binary STL with bytes after the last facet' => ['a.stl', self::stl('tail', 1, $facet.'trailing'), 3, 1];
        yield 'binary STL with colour in the last two bytes' => ['a.stl', self::stl('colour', 1, substr($facet, 0, 48)."\xff\x7f"), 3, 1];
        yield 'binary STL with normals that are no numbers' => ['a.stl', self::stl('nan', 1, self::facet(NAN, NAN, NAN, 0, 0, 0, 1, 0, 0, 0, 1, 0)), 3, 1];
        yield 'text STL with CRLF, tabs and capitals in the name' => ['a.STL', str_replace("\n", "\r\n", "solid Base Plate\nfacet normal 0 0 1\n\touter loop\n\tvertex 0 0 0\n\tvertex 1e0 0 0\n\tvertex 0 +1 0\n\tendloop\nendfacet\nendsolid\n"), 3, 1];
        yield 'text STL of two solids' => ['a.stl', str_repeat("solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid s\n", 2), 3, 2];
        yield 'OBJ with groups, materials and comments' => ['a.obj', "# made by hand\nmtllib a.mtl\no Base\ng top\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl x\ns off\nf 1 2 3\n", 3, 1];
        yield 'OBJ with indices from the end' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf -3 -2 -1\n", 3, 1];
        yield 'OBJ with texture and normal indices' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvn 0 0 1\nf 1/1/1 2/1/1 3/1/1\n", 3, 1];
        yield 'OBJ with normals only' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0 0 1\nf 1//1 2//1 3//1\n", 3, 1];
        yield 'OBJ with four coordinates' => ['a.obj', "v 0 0 0 1.0\nv 1 0 0 1.0\nv 0 1 0 1.0\nf 1 2 3\n", 3, 1];
        yield 'OBJ of points alone' => ['a.obj', "v 0 0 0\nv 1 0 0\n", 2, 0];
        yield 'OBJ with CRLF and blanks at the ends' => ['a.obj', "v 0 0 0 \r\nv 1 0 0\t\r\nv 0 1 0\r\nf 1 2 3 \r\n", 3, 1];
        yield 'OFF with comments and counts on the first line' => ['a.off', "OFF 3 1 0 # three points\n# a comment\n0 0 0\n1 0 0\n\n0 1 0\n3 0 1 2\n", 3, 1];
        yield 'OFF with face colours' => ['a.off', "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2 255 0 0\n", 3, 1];
        yield 'OFF with a quad' => ['a.off', "OFF\n4 1 0\n0 0 0\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3\n", 4, 2];
        yield 'text with blank lines and comments' => ['a.txt', "# x y z\n\n0 0 0\n// more\n1 1 1\n", 2, 0];
        yield 'text with semicolons' => ['a.csv', "x;y;z\n0;0;0\n1;1;1\n", 2, 0];
        yield 'text with tabs, CRLF and exponents' => ['a.asc', "1e-3\t2E+1\t-3.5\r\n0\t0\t0\r\n", 2, 0];
        yield 'text without a last line end' => ['a.xyz', "0 0 0\n1 1 1\n2 2 2", 3, 0];
        yield 'text with a byte order mark' => ['a.xyz', "\xEF\xBB\xBF0 0 0\n1 1 1\n", 2, 0];
        yield 'OBJ with a byte order mark' => ['a.obj', "\xEF\xBB\xBF# made by hand\nv 0 0 0\nv 1 0 0\n", 2, 0];
    }

    #[Test]
    #[DataProvider('oddButLegal')]
    public function odd_but_legal_files_are_read_whole(string $name, string $bytes, int $points, int $faces): void
    {
        file_put_contents("$this->folder/$name", $bytes);
        $geometry = Formats::read("$this->folder/$name")->geometry;
        self::assertSame($points, intdiv(count($geometry->positions), 3));
        self::assertSame($faces, $geometry instanceof TriangleMesh ? $geometry->faceCount() : 0);
        if ($faces === 0) {
            self::assertInstanceOf(PointCloud::class, $geometry);
        }
    }

    #[Test]
    public function decimal_commas_are_read_as_numbers_and_commas_between_numbers_as_ends(): void
    {
        file_put_contents("$this->folder/a.csv", "x;y;z\n1,5;-2,25;3\n4;5,125;6e1\n");
        self::assertSame([1.5, -2.25, 3.0, 4.0, 5.125, 60.0], Formats::read("$this->folder/a.csv")->geometry->positions);
        file_put_contents("$this->folder/b.csv", "1,2,3\n4, 5, 6\n");
        self::assertSame([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], Formats::read("$this->folder/b.csv")->geometry->positions);
    }

    /** @return iterable<string, array{string, string}> name, bytes */
    public static function damaged(): iterable
    {
        $face = "element face 1\nproperty list uchar int vertex_indices\n";
        $three = "0 0 0\n1 0 0\n0 1 0\n";
        $vertex3 = "element vertex 3\n".self::XYZ;
        $facet = self::facet(0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0);
        yield 'PLY: one word' => ['a.ply', 'ply'];
        yield 'PLY: no format' => ['a.ply', "ply\nelement vertex 1\n".self::XYZ."end_header\n0 0 0\n"];
        yield 'PLY: a format there is not' => ['a.ply', self::ply("element vertex 1\n".self::XYZ, "0 0 0\n", 'binary_middle_endian')];
        yield 'PLY: the header never ends' => ['a.ply', "ply\nformat ascii 1.0\nelement vertex 1\n".str_repeat("comment x\n", 5000)];
        yield 'PLY: no vertices' => ['a.ply', self::ply('', '')];
        yield 'PLY: zero vertices' => ['a.ply', self::ply("element vertex 0\n".self::XYZ, '')];
        yield 'PLY: no z' => ['a.ply', self::ply("element vertex 1\nproperty float x\nproperty float y\n", "0 0\n")];
        yield 'PLY: a count that is no number' => ['a.ply', self::ply("element vertex many\n".self::XYZ, "0 0 0\n")];
        yield 'PLY: a negative count' => ['a.ply', self::ply("element vertex -1\n".self::XYZ, "0 0 0\n")];
        yield 'PLY: a count beyond all memory' => ['a.ply', self::ply("element vertex 99999999999999999999\n".self::XYZ, "0 0 0\n")];
        yield 'PLY: more promised than there is, text' => ['a.ply', self::ply($vertex3, "0 0 0\n")];
        yield 'PLY: more promised than there is, binary' => ['a.ply', self::ply($vertex3, pack('g6', 0, 0, 0, 1, 1, 1), 'binary_little_endian')];
        yield 'PLY: a type there is not' => ['a.ply', self::ply("element vertex 1\n".str_replace('float', 'quaternion', self::XYZ), "0 0 0\n")];
        yield 'PLY: a property before any element' => ['a.ply', self::ply(self::XYZ."element vertex 1\n", "0 0 0\n")];
        yield 'PLY: two numbers in a line' => ['a.ply', self::ply($vertex3, "0 0\n1 0 0\n0 1 0\n")];
        yield 'PLY: a word for a number' => ['a.ply', self::ply($vertex3, "0 0 zero\n1 0 0\n0 1 0\n")];
        yield 'PLY: infinity' => ['a.ply', self::ply("element vertex 1\n".self::XYZ, pack('g3', INF, 0, 0), 'binary_little_endian')];
        yield 'PLY: no number, binary' => ['a.ply', self::ply("element vertex 1\n".self::XYZ, pack('g3', 0, NAN, 0), 'binary_little_endian')];
        yield 'PLY: a face with a vertex that is not there' => ['a.ply', self::ply($vertex3.$face, $three."3 0 1 3\n")];
        yield 'PLY: a face with a negative vertex' => ['a.ply', self::ply($vertex3.$face, $three."3 0 1 -1\n")];
        yield 'PLY: a face of 255 corners in 3 bytes' => ['a.ply', self::ply($vertex3.$face, pack('g9', 0, 0, 0, 1, 0, 0, 0, 1, 0)."\xff\0\0\0", 'binary_little_endian')];
        yield 'PLY: a list of two thousand million' => ['a.ply', self::ply($vertex3."element face 1\nproperty list uint int vertex_indices\n", pack('g9', 0, 0, 0, 1, 0, 0, 0, 1, 0)."\xff\xff\xff\x7f", 'binary_little_endian')];
        yield 'PLY: in UTF-16' => ['a.ply', "\xFF\xFE".mb_convert_encoding(self::ply($vertex3, $three), 'UTF-16LE', 'UTF-8')];
        yield 'PLY: really an STL' => ['a.ply', self::stl('x', 1, $facet)];
        yield 'STL: one byte' => ['a.stl', 'x'];
        yield 'STL: the heading alone' => ['a.stl', str_repeat(' ', 80)];
        yield 'STL: no facets' => ['a.stl', self::stl('x', 0, '')];
        yield 'STL: half a facet' => ['a.stl', self::stl('x', 1, substr($facet, 0, 25))];
        yield 'STL: four thousand million facets' => ['a.stl', self::stl('x', 0xFFFFFFFF, $facet)];
        yield 'STL: a coordinate without end' => ['a.stl', self::stl('x', 1, self::facet(0, 0, 1, 0, 0, 0, INF, 0, 0, 0, 1, 0))];
        yield 'STL: text without facets' => ['a.stl', "solid nothing\nendsolid nothing\n".str_repeat(' ', 80)];
        yield 'STL: text, two corners' => ['a.stl', "solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nendloop\nendfacet\nendsolid s\n"];
        yield 'STL: text, a corner of two numbers' => ['a.stl', "solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid s\n"];
        yield 'STL: text, a corner in words' => ['a.stl', "solid s\nfacet normal 0 0 1\nouter loop\nvertex here and there\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid\n"];
        yield 'STL: text in UTF-16' => ['a.stl', "\xFF\xFE".mb_convert_encoding("solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\n", 'UTF-16LE', 'UTF-8')];
        yield 'OBJ: nothing in it' => ['a.obj', "# empty\n"];
        yield 'OBJ: vertex 0' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n"];
        yield 'OBJ: a vertex too far back' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf -4 -2 -1\n"];
        yield 'OBJ: a face before its vertices' => ['a.obj', "f 1 2 3\nv 0 0 0\nv 1 0 0\nv 0 1 0\n"];
        yield 'OBJ: a face of two' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2\n"];
        yield 'OBJ: a face in words' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf one two three\n"];
        yield 'OBJ: a vertex of two numbers' => ['a.obj', "v 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"];
        yield 'OBJ: a vertex without end' => ['a.obj', "v 0 0 1e999\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"];
        yield 'OBJ: a vertex that is no number' => ['a.obj', "v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"];
        yield 'OBJ: an index larger than any integer' => ['a.obj', "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 99999999999999999999999\n"];
        yield 'OFF: another word' => ['a.off', "ON\n3 1 0\n$three 3 0 1 2\n"];
        yield 'OFF: no counts' => ['a.off', "OFF\n"];
        yield 'OFF: counts that lie' => ['a.off', "OFF\n1000000 1 0\n0 0 0\n"];
        yield 'OFF: fewer faces than promised' => ['a.off', "OFF\n3 2 0\n{$three}3 0 1 2\n"];
        yield 'OFF: a vertex that is not there' => ['a.off', "OFF\n3 1 0\n{$three}3 0 1 3\n"];
        yield 'OFF: a face that promises more corners' => ['a.off', "OFF\n3 1 0\n{$three}4 0 1 2\n"];
        yield 'OFF: a face of minus three' => ['a.off', "OFF\n3 1 0\n{$three}-3 0 1 2\n"];
        yield 'OFF: no points' => ['a.off', "OFF\n0 0 0\n"];
        yield 'OFF: a number without end' => ['a.off', "OFF\n3 1 0\n0 0 inf\n1 0 0\n0 1 0\n3 0 1 2\n"];
        yield 'text: a letter to the technician' => ['a.txt', "Dear all,\nthe passes come tomorrow.\nRegards\nInes\nOrchard Press\nCider Lane 4\n"];
        yield 'text: two columns' => ['a.xyz', "1 2\n3 4\n5 6\n7 8\n9 10\n11 12\n"];
        yield 'text: a gap in the middle' => ['a.xyz', "0 0 0\n1 1\n2 2 2\n"];
        yield 'text: no number in the middle' => ['a.csv', "0,0,0\n1,nan,1\n"];
        yield 'text: without end' => ['a.asc', "0 0 0\n1 1 1e999\n"];
        yield 'text: two columns with decimal commas' => ['a.txt', "1,5 2,5\n3,5 4,5\n"];
        yield 'text: in UTF-16' => ['a.txt', "\xFF\xFE".mb_convert_encoding("0 0 0\n1 1 1\n2 2 2\n3 3 3\n4 4 4\n5 5 5\n6 6 6\n7 7 7\n", 'UTF-16LE', 'UTF-8')];
        yield 'text: only noise' => ['a.xyz', random_bytes(5000)];
        yield 'noise as PLY' => ['a.ply', random_bytes(5000)];
        yield 'noise as OBJ' => ['a.obj', "\0".random_bytes(300)];
        yield 'noise as OFF' => ['a.off', "\0".random_bytes(5000)];
        yield 'zeros as STL' => ['a.stl', str_repeat("\0", 5000)];
        yield 'a picture as 3MF' => ['a.3mf', "\x89PNG\r\n\x1a\n".random_bytes(200)];
        yield 'an empty container' => ['a.3mf', "PK\x05\x06".str_repeat("\0", 18)];
    }

    #[Test]
    #[DataProvider('damaged')]
    public function damaged_files_are_refused_with_name_and_reason_and_no_complaint_of_php(string $name, string $bytes): void
    {
        file_put_contents("$this->folder/$name", $bytes);
        set_error_handler(fn (int $level, string $message) => (error_reporting() & $level) === 0 ? false : throw new \ErrorException($message));
        try {
            Formats::read("$this->folder/$name");
            self::fail('it was read');
        } catch (UnreadableFile $problem) {
            self::assertStringStartsWith($name, $problem->getMessage());
            self::assertStringNotContainsString($this->folder, $problem->getMessage());
            self::assertGreaterThan(strlen($name) + 15, strlen($problem->getMessage()), 'it says why');
            self::assertStringNotContainsString("\n", $problem->getMessage());
        } finally {
            restore_error_handler();
        }
    }

    #[Test]
    #[DataProvider('damaged')]
    public function what_is_refused_when_read_whole_is_refused_when_streamed(string $name, string $bytes): void
    {
        file_put_contents("$this->folder/$name", $bytes);
        $this->expectException(UnreadableFile::class);
        if (Formats::intoBlob("$this->folder/$name", "$this->folder/out.blob") === null) {
            // Not of a kind that is streamed, or no cloud: read whole instead.
            Formats::each("$this->folder/$name");
        }
    }

    #[Test]
    #[DataProvider('oddButLegal')]
    public function what_is_read_whole_is_the_same_when_streamed(string $name, string $bytes, int $points, int $faces): void
    {
        file_put_contents("$this->folder/$name", $bytes);
        $thing = Formats::intoBlob("$this->folder/$name", "$this->folder/out.blob");
        if ($thing === null) {
            self::assertTrue($faces > 0 || ! in_array(strtolower(pathinfo($name, PATHINFO_EXTENSION)), ['xyz', 'txt', 'csv', 'asc', 'pts'], true));

            return;
        }
        self::assertSame([$points, 0], [$thing->points, $faces]);
        $streamed = Blob::decode((string) file_get_contents("$this->folder/out.blob"));
        self::assertEqualsWithDelta(Formats::read("$this->folder/$name")->geometry->positions, $streamed->positions, 1e-3);
    }
}
