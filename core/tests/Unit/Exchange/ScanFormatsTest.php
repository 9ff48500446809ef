<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Tests\Support\E57Builder;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** E57 and PTX: scans with their poses. */
final class ScanFormatsTest extends TestCase
{
    private const XYZ = '<cartesianX type="Float"/><cartesianY type="Float"/><cartesianZ type="Float"/>';

    private const PTX_HEAD = "0 0 0\n1 0 0\n0 1 0\n0 0 1\n1 0 0 0\n0 1 0 0\n0 0 1 0\n0 0 0 1\n";

    use OwnFolder;

    #[Test]
    public function a_cloud_written_as_e57_comes_back_with_its_places_colours_and_sensor(): void
    {
        $gen = new Gen(57);
        $positions = $colours = [];
        // More than one packet, and more than one run of pages.
        for ($k = 0; $k < 12_345; $k++) {
            array_push($positions, $gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0));
            $colours[] = $gen->int(0, 0xFFFFFF);
        }
        Formats::write("$this->folder/a.e57", PointCloud::fromFlat($positions, [], $colours, [100.0, -200.0, 300.0]));
        $things = Formats::each("$this->folder/a.e57");
        self::assertCount(1, $things);
        self::assertSame(Unit::Metre, $things[0]->unit);
        $back = $things[0]->placed();
        self::assertInstanceOf(PointCloud::class, $back);
        self::assertSame($colours, $back->colours);
        self::assertEqualsWithDelta([0.1, -0.2, 0.3], $back->sensorOrigin, 1e-15);
        foreach ($positions as $k => $v) {
            self::assertEqualsWithDelta($v, 1000.0 * $back->positions[$k], 1e-9);
        }
    }

    #[Test]
    public function a_cloud_without_a_sensor_comes_back_without_one(): void
    {
        Formats::write("$this->folder/a.e57", PointCloud::fromFlat([1.0, 2.0, 3.0]), new WriteOptions(unit: Unit::Foot));
        $back = Formats::read("$this->folder/a.e57")->geometry;
        self::assertInstanceOf(PointCloud::class, $back);
        self::assertNull($back->sensorOrigin);
        self::assertEqualsWithDelta([0.3048, 0.6096, 0.9144], $back->positions, 1e-15);
    }

    #[Test]
    public function scaled_integers_of_odd_bits_that_straddle_packets_are_decoded(): void
    {
        // 11 bits: -1000 to 1000 in steps of 0.5, moved by 7; the second packet goes on in the middle of nothing: eight values end on a byte.
        $x = [0, 1, 2000, 1999, 5, 1023, 1024, 77, 300, 4, 5];
        $field = fn (string $name) => "<$name type=\"ScaledInteger\" minimum=\"-1000\" maximum=\"1000\" scale=\"0.5\" offset=\"7\"/>";
        $first = E57Builder::bits(array_slice($x, 0, 8), 11);
        $second = E57Builder::bits(array_slice($x, 8), 11);
        $file = $this->put('a.e57', E57Builder::file(
            $field('cartesianX').$field('cartesianY').$field('cartesianZ'),
            // The streams need not be cut at the same record.
            [[$first, substr($first, 0, 5), $first], [$second, substr($first, 5).$second, $second]], 11,
        ));
        $p = Formats::read($file)->geometry->positions;
        foreach ($x as $k => $raw) {
            $value = ($raw - 1000) * 0.5 + 7.0;
            self::assertSame([$value, $value, $value], array_slice($p, 3 * $k, 3));
        }
    }

    /** @return iterable<string, array{int}> */
    public static function widths(): iterable
    {
        foreach ([1, 3, 8, 16, 17, 31, 32, 33, 48, 55, 60, 62] as $bits) {
            yield "$bits bits" => [$bits];
        }
    }

    #[Test]
    #[DataProvider('widths')]
    public function integers_of_every_width_are_decoded(int $bits): void
    {
        $gen = new Gen($bits);
        $values = [0, (1 << $bits) - 1];
        for ($k = 0; $k < 30; $k++) {
            $values[] = $gen->int(0, (1 << $bits) - 1);
        }
        // A power of two brings the widest within what a coordinate may be, and loses no bit of it.
        $scale = 2.0 ** -max(0, $bits - 32);
        $field = fn (string $name) => sprintf('<%s type="ScaledInteger" minimum="0" maximum="%d" scale="%.17g"/>', $name, (1 << $bits) - 1, $scale);
        $stream = E57Builder::bits($values, $bits);
        $file = $this->put('a.e57', E57Builder::file($field('cartesianX').$field('cartesianY').'<cartesianZ type="Integer" minimum="4" maximum="4"/>', [[$stream, $stream, '']], 32));
        $p = Formats::read($file)->geometry->positions;
        foreach ($values as $k => $value) {
            self::assertSame([$value * $scale, $value * $scale, 4.0], array_map(floatval(...), array_slice($p, 3 * $k, 3)));
        }
    }

    #[Test]
    public function angles_and_ranges_become_places_and_invalid_points_go(): void
    {
        $prototype = '<sphericalRange type="Float" precision="single"/><sphericalAzimuth type="Float"/><sphericalElevation type="Float"/>'
            .'<sphericalInvalidState type="Integer" minimum="0" maximum="2"/><intensity type="Float" precision="single"/>';
        $file = $this->put('a.e57', E57Builder::file($prototype, [[
            pack('g3', 2.0, 3.0, 4.0), pack('e3', 0.0, M_PI / 2, 0.0), pack('e3', 0.0, 0.0, M_PI / 2), E57Builder::bits([0, 2, 0], 2), pack('g3', 0.0, 0.5, 1.0),
        ]], 3));
        $cloud = Formats::read($file)->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertEqualsWithDelta([2.0, 0.0, 0.0, 0.0, 0.0, 4.0], $cloud->positions, 1e-15);
        self::assertSame([0x000000, 0xFFFFFF], $cloud->colours);
        self::assertSame([0.0, 0.0, 0.0], $cloud->sensorOrigin);
    }

    #[Test]
    public function a_pose_turns_and_shifts_and_its_quaternion_need_not_have_length_one(): void
    {
        // A quarter turn about Z, twice as long as it should be.
        $pose = '<pose><rotation><w>1.4142135623730951</w><x/><y/><z>1.4142135623730951</z></rotation><translation><x>10</x><y>0</y><z>5</z></translation></pose>';
        $file = $this->put('a.e57', E57Builder::file(self::XYZ, [[pack('e', 1.0), pack('e', 0.0), pack('e', 0.0)]], 1, $pose));
        $cloud = Formats::read($file)->geometry;
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertEqualsWithDelta([10.0, 1.0, 5.0], $cloud->positions, 1e-12);
        self::assertEqualsWithDelta([10.0, 0.0, 5.0], $cloud->sensorOrigin, 1e-12);
    }

    /** @return iterable<string, array{string, string}> */
    public static function damagedE57(): iterable
    {
        $three = [pack('e2', 1, 2), pack('e2', 3, 4), pack('e2', 5, 6)];
        $good = E57Builder::file(self::XYZ, [$three], 2, str_repeat(' ', 600));
        yield 'another beginning' => ['PK'.substr($good, 2), 'begins with "ASTM-E57"'];
        yield 'half a page' => [substr($good, 0, 1500), 'copy it again'];
        yield 'a page less' => [substr($good, 0, 1024), 'copy it again'];
        yield 'one bit turned' => [substr_replace($good, chr(ord($good[100]) ^ 1), 100, 1), 'does not match its checksum'];
        yield 'a wrong checksum' => [substr_replace($good, 'XXXX', 1020, 4), 'does not match its checksum'];
        yield 'version 2' => [substr_replace($good, pack('V', 2), 8, 4), 'version 1 of E57'];
        yield 'no room for XML' => [E57Builder::paged('', ''), 'outside the file'];
        yield 'no XML' => [E57Builder::paged(str_repeat('x', 100), 'hello'), 'the XML is damaged'];
        yield 'entities' => [E57Builder::paged('', '<!DOCTYPE e57Root [<!ENTITY a "x">]><e57Root>&a;</e57Root>'), 'declares a document type'];
        yield 'no scans' => [E57Builder::paged('', '<e57Root type="Structure"/>'), 'no scan in it holds a point'];
        yield 'more records than there are' => [E57Builder::file(self::XYZ, [$three], 3), '3 points are promised, but cartesianX ends after 2'];
        yield 'more records than any file holds' => [E57Builder::file(self::XYZ, [$three], 999_999_999_999), 'the file cannot hold'];
        yield 'records in words' => [E57Builder::paged('', '<e57Root><data3D><vectorChild><points recordCount="many"><prototype/></points></vectorChild></data3D></e57Root>'), 'does not say how many'];
        yield 'a field less in the packets' => [E57Builder::file(self::XYZ, [array_slice($three, 0, 2)], 2), 'does not have the fields'];
        yield 'no Z' => [E57Builder::file('<cartesianX type="Float"/><cartesianY type="Float"/>', [array_slice($three, 0, 2)], 2), 'neither X, Y and Z nor range and angles'];
        yield 'a coordinate of text' => [E57Builder::file('<cartesianX type="String"/><cartesianY type="Float"/><cartesianZ type="Float"/>', [$three], 2), 'holds no numbers'];
        yield 'no number' => [E57Builder::file(self::XYZ, [[pack('e2', 1, NAN), pack('e2', 3, 4), pack('e2', 5, 6)]], 2), 'point 1: a coordinate is not a finite number'];
        yield 'a pose without direction' => [E57Builder::file(self::XYZ, [$three], 2, '<pose><rotation><w>0</w></rotation></pose>'), 'not a turn and a shift'];
        $elsewhere = '<e57Root><data3D><vectorChild><points fileOffset="%d" recordCount="1"><prototype>'.self::XYZ.'</prototype></points></vectorChild></data3D></e57Root>';
        yield 'points beyond the end' => [E57Builder::paged('', sprintf($elsewhere, 1_000_000)), 'the file ends before'];
        yield 'points in a checksum' => [E57Builder::paged('', sprintf($elsewhere, 1021)), 'into a checksum'];
        yield 'points where there are none' => [E57Builder::paged(str_repeat("\0", 64), sprintf($elsewhere, 48)), 'no points where the XML says'];
        yield 'a packet longer than its section' => [E57Builder::paged(pack('C', 1).str_repeat("\0", 7).pack('PPP', 64, 80, 0).pack('CCv', 1, 0, 65535).str_repeat("\0", 60), sprintf($elsewhere, 48)), 'a packet is longer'];
        yield 'a packet of another kind' => [E57Builder::paged(pack('C', 1).str_repeat("\0", 7).pack('PPP', 64, 80, 0).pack('CCv', 9, 0, 15).str_repeat("\0", 60), sprintf($elsewhere, 48)), 'a kind that E57 does not know'];
        yield 'streams longer than their packet' => [E57Builder::paged(pack('C', 1).str_repeat("\0", 7).pack('PPP', 64, 80, 0).pack('CCv', 1, 0, 15).pack('v4', 3, 60000, 0, 0).str_repeat("\0", 60), sprintf($elsewhere, 48)), 'longer than it'];
    }

    #[Test]
    #[DataProvider('damagedE57')]
    public function damaged_e57_is_refused_with_place_and_reason(string $bytes, string $reason): void
    {
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage($reason);
        Formats::read($this->put('a.e57', $bytes));
    }

    #[Test]
    public function every_truncation_and_every_changed_byte_of_an_e57_is_refused(): void
    {
        $gen = new Gen(7);
        Formats::write("$this->folder/a.e57", PointCloud::fromFlat([1.0, 2.0, 3.0, 4.0, 5.0, 6.0], [], [1, 2]));
        $whole = (string) file_get_contents("$this->folder/a.e57");
        for ($k = 0; $k < 120; $k++) {
            $at = $gen->int(0, strlen($whole) - 1);
            foreach ([substr($whole, 0, $at), substr_replace($whole, chr(ord($whole[$at]) ^ (1 << $k % 8)), $at, 1)] as $damaged) {
                try {
                    Formats::read($this->put('b.e57', $damaged));
                    self::fail("damage at byte $at was read");
                } catch (UnreadableFile $problem) {
                    self::assertStringStartsWith('b.e57', $problem->getMessage());
                }
            }
        }
    }

    #[Test]
    public function a_mesh_is_not_written_as_scans(): void
    {
        foreach (['e57', 'ptx', 'zip', 'gz'] as $ending) {
            try {
                Formats::write("$this->folder/a.$ending", MeshBuilder::icosphere(0));
                self::fail("$ending was written");
            } catch (UnsuitableInput) {
                self::assertSame([], glob("$this->folder/a*"), 'nothing is left behind');
            }
        }
    }

    #[Test]
    public function ptx_scans_keep_their_poses_and_holes_are_left_out(): void
    {
        $turned = "0 0 0\n1 0 0\n0 1 0\n0 0 1\n0 1 0 0\n-1 0 0 0\n0 0 1 0\n10 20 30 1\n";
        $file = $this->put('a.ptx', "2\n2\n".self::PTX_HEAD."1 0 0 0.5 255 0 0\n0 0 0 0.5 0 0 0\n0 2 0 0.5 0 255 0\n0 0 3 0.5 0 0 255\n1\n2\n{$turned}1 0 0 0.25\n0 1 0 1\n");
        $scans = Formats::each($file);
        self::assertCount(2, $scans);
        self::assertInstanceOf(PointCloud::class, $scans[0]->geometry);
        self::assertSame([1.0, 0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 3.0], $scans[0]->geometry->positions);
        self::assertSame([0xFF0000, 0x00FF00, 0x0000FF], $scans[0]->geometry->colours);
        // A quarter turn about Z for row vectors: x goes to y.
        self::assertEqualsWithDelta([10.0, 21.0, 30.0, 9.0, 20.0, 30.0], $scans[1]->placed()->positions, 1e-12);
        $second = $scans[1]->placed();
        self::assertInstanceOf(PointCloud::class, $second);
        self::assertSame([0x3F3F3F, 0xFFFFFF], $second->colours);
        self::assertSame([10.0, 20.0, 30.0], $second->sensorOrigin);
        self::assertCount(15, Formats::read($file)->geometry->positions, 'read as one, all five points are there');
    }

    /** @return iterable<string, array{string, string}> */
    public static function damagedPtx(): iterable
    {
        yield 'no counts' => ["hello\n", 'line 1'];
        yield 'no rows' => ["2\n", 'line 2'];
        yield 'zero columns' => ["0\n2\n".self::PTX_HEAD, 'line 1'];
        yield 'counts beyond the file' => ["9999\n9999\n".self::PTX_HEAD."1 0 0 1\n", 'larger than the file'];
        yield 'negative' => ["-2\n2\n".self::PTX_HEAD, 'line 1'];
        yield 'two numbers for a place' => ["1\n1\n0 0\n", 'line 3: 3 numbers are expected'];
        yield 'a word in the matrix' => ["1\n1\n".str_replace("1 0 0 0\n", "1 0 zero 0\n", self::PTX_HEAD)."1 0 0 1\n", 'line 7: "zero" is not a finite number'];
        yield 'an endless number in the matrix' => ["1\n1\n".str_replace("0 0 0 1\n", "0 0 1e999 1\n", self::PTX_HEAD)."1 0 0 1\n", 'not a finite number'];
        yield 'a matrix that stretches' => ["1\n1\n".str_replace("1 0 0 0\n", "2 0 0 0\n", self::PTX_HEAD)."1 0 0 1\n", 'stretches or shears'];
        yield 'fewer points than the grid' => ["2\n2\n".self::PTX_HEAD."1 0 0 1\n2 0 0 1\n", 'line 13: the grid ends too early'];
        yield 'a point of two numbers' => ["1\n1\n".self::PTX_HEAD."1 0\n", 'line 11: three numbers are expected'];
        yield 'a point without end' => ["1\n1\n".self::PTX_HEAD."1 0 1e999 1\n", 'line 11: a coordinate is not a finite number'];
        yield 'no point came back' => ["1\n2\n".self::PTX_HEAD."0 0 0 0.5\n0 0 0 0.5\n", 'no scan in it holds a point'];
        yield 'noise' => ["\0\1\2\3\4", 'line 1'];
    }

    #[Test]
    #[DataProvider('damagedPtx')]
    public function damaged_ptx_is_refused_with_line_and_reason(string $text, string $reason): void
    {
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage($reason);
        Formats::read($this->put('a.ptx', $text));
    }
}
