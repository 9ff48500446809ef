<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Recipe;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Recipe\Recipe;
use Emberstone\Core\Recipe\Run;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ReadApartTest extends TestCase
{
    private string $folder;

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/emberstone-apart-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    protected function tearDown(): void
    {
        array_map(unlink(...), glob("$this->folder/*/*") ?: []);
        array_map(rmdir(...), glob("$this->folder/*", GLOB_ONLYDIR) ?: []);
        array_map(unlink(...), glob("$this->folder/*") ?: []);
        rmdir($this->folder);
    }

    #[Test]
    public function files_read_side_by_side_give_what_those_read_one_after_the_other_give(): void
    {
        $gen = new Gen(2);
        $files = [];
        foreach (range(0, 2) as $k) {
            $cloud = PointCloud::fromFlat(array_map(fn () => $gen->float(-50.0, 50.0), range(1, 900)), [], $k === 1 ? range(1, 300) : [], $k === 2 ? null : [1.0, 2.0, 300.0 + $k]);
            Formats::write($files[] = "$this->folder/pass-$k.ply", $cloud);
        }
        Formats::write($files[] = "$this->folder/ball.stl", MeshBuilder::icosphere(2, 10.0));
        $reports = [];
        foreach (['together' => 1, 'in turn' => PHP_INT_MAX] as $how => $large) {
            mkdir($out = "$this->folder/$how");
            $report = (new Run(self::recipe(), $large))($files, $out, 'ply', new NoProgress);
            $reports[] = [array_column($report['bodies'], 'name'), $report['passes'], array_map(fn (string $file) => [basename($file), md5_file($file)], glob("$out/*.ply") ?: [])];
        }
        self::assertCount(3, $reports[0][1]);
        self::assertSame($reports[1], $reports[0]);
    }

    #[Test]
    public function a_file_that_cannot_be_read_is_told_as_ever(): void
    {
        Formats::write("$this->folder/pass.ply", PointCloud::fromFlat([1.0, 2.0, 3.0]));
        file_put_contents("$this->folder/cut.ply", "ply\nformat binary_little_endian 1.0\nelement vertex 100\nproperty float x\nproperty float y\nproperty float z\nend_header\nshort");
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessageMatches('/cut\.ply/');
        (new Run(self::recipe(), 1))(["$this->folder/pass.ply", "$this->folder/cut.ply"], $this->folder, 'ply', new NoProgress);
    }

    private static function recipe(): Recipe
    {
        return Recipe::fromJson('{"recipe": 1, "unit": "mm", "steps": [{"op": "move", "moving": "pass-0", "shiftX": 1.5}]}');
    }
}
