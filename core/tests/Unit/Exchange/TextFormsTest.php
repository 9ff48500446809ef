<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\TextNumber;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Ways in which programs write the same text formats, and what damaged ones say. */
final class TextFormsTest extends TestCase
{
    use OwnFolder;

    private function read(string $name, string $text): TriangleMesh|PointCloud
    {
        file_put_contents("$this->folder/$name", $text);

        return Formats::read("$this->folder/$name")->geometry;
    }

    #[Test]
    public function numbers_have_exponents_after_e_or_d_in_either_case(): void
    {
        foreach (['12.5' => 12.5, '1.25e1' => 12.5, '1.25E+01' => 12.5, '1.25d1' => 12.5, '1.25D+01' => 12.5, '-.5' => -0.5, '5.' => 5.0, '+3' => 3.0] as $word => $number) {
            self::assertSame($number, TextNumber::parse((string) $word), (string) $word);
        }
        foreach (['', 'one', '1e', '0x1f', 'nan', 'inf', '1e999', '1,5', null] as $word) {
            self::assertNull(TextNumber::parse($word), (string) $word);
        }
    }

    #[Test]
    public function stl_text_is_read_whatever_the_case_of_its_words_and_exponents(): void
    {
        $text = "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0.0e+00 0 0\nvertex 1.0E+01 0 0\nvertex 0 1.0d1 0\nendloop\nendfacet\nendsolid a\n";
        foreach ([$text, strtoupper($text), str_replace(['vertex', ' 0 0'], ['Vertex', "\t0\t0"], $text)] as $k => $written) {
            $mesh = $this->read("$k.stl", $written);
            self::assertInstanceOf(TriangleMesh::class, $mesh);
            self::assertSame([0.0, 0.0, 0.0, 10.0, 0.0, 0.0, 0.0, 10.0, 0.0], $mesh->positions);
        }
    }

    #[Test]
    public function obj_lines_go_on_after_a_backslash(): void
    {
        $mesh = $this->read('a.obj', "v 0 0 \\\n 0\nv 1 0 0\r\nv 1 1 0\nv 0 1 \\\r\n  0\nf 1 2 \\\n 3 \\\n 4\n");
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        self::assertSame([4, 2], [$mesh->vertexCount(), $mesh->faceCount()]);
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function damaged(): iterable
    {
        $corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\n";
        $head = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list int int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n";
        yield 'an OBJ face with a fraction as index' => ['a.obj', "{$corners}f 1 2.5 3\n", 'line 4: the face names vertex "2.5"'];
        yield 'an OBJ face with a word as index' => ['a.obj', "{$corners}f 1 two 3\n", 'line 4: the face names vertex "two"'];
        yield 'an OBJ face with an index of nothing' => ['a.obj', "{$corners}f 1 / 3\n", 'line 4: the face names vertex "/"'];
        yield 'an OBJ face continued and too far' => ['a.obj', "{$corners}f 1 2 \\\n 9\n", 'line 5: the face names vertex "9"'];
        yield 'an OBJ normal with a word' => ['a.obj', "{$corners}vn 0 0 up\n", 'line 4: a "vn" line needs three numbers'];
        yield 'an OBJ vertex too large for a double' => ['a.obj', "v 0 0 1e999\n", 'line 1: a "v" line needs three numbers'];
        yield 'an STL vertex with a word' => ['a.stl', "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n", 'line 4: a vertex line needs three numbers'];
        yield 'a PLY list of fewer than none' => ['a.ply', "{$head}-3 0 1 2\n", 'says it has -3 entries'];
        yield 'a PLY list with a fraction of entries' => ['a.ply', "{$head}2.5 0 1 2\n", 'says it has 2.5 entries'];
        yield 'a binary PLY list of fewer than none' => ['a.ply', str_replace(['ascii', 'list int int', "0 0 0\n1 0 0\n0 1 0\n"], ['binary_little_endian', 'list char int', ''], $head).pack('g9', 0, 0, 0, 1, 0, 0, 0, 1, 0).pack('c', -3).pack('V3', 0, 1, 2), 'says it has -3 entries'];
    }

    #[Test]
    #[DataProvider('damaged')]
    public function damaged_text_is_refused_with_its_place(string $name, string $text, string $said): void
    {
        try {
            $this->read($name, $text);
            self::fail('it was read');
        } catch (UnreadableFile $refused) {
            self::assertStringContainsString($said, $refused->getMessage());
        }
    }

    #[Test]
    public function what_is_not_finite_becomes_no_cloud_and_no_mesh(): void
    {
        $p = array_fill(0, 900, 1.5);
        foreach ([NAN, INF, -INF] as $bad) {
            $p[500] = $bad;
            foreach ([fn () => PointCloud::fromFlat($p), fn () => TriangleMesh::fromFlat($p, [0, 1, 2]), fn () => PointCloud::fromFlat(array_fill(0, 900, 1.0), $p)] as $make) {
                try {
                    $make();
                    self::fail('it was made');
                } catch (UnsuitableInput $refused) {
                    self::assertStringContainsString('166 is not a finite number', $refused->getMessage());
                }
            }
        }
    }
}
