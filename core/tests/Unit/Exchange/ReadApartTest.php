<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Exchange;

use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\ReadApart;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Reading in processes of their own, with limits. */
final class ReadApartTest extends TestCase
{
    use OwnFolder;

    #[Test]
    public function what_is_read_apart_is_what_is_read_here_and_damage_keeps_nothing_else_out(): void
    {
        Formats::write("$this->folder/a.glb", MeshBuilder::icosphere(2));
        file_put_contents("$this->folder/b.ply", 'ply');
        file_put_contents("$this->folder/c.xyz", "0 0 0\n3 4 0\n");
        $progress = new RecordingProgress;
        [$mesh, $damaged, $cloud] = (new ReadApart)(["$this->folder/a.glb", "$this->folder/b.ply", "$this->folder/c.xyz"], $this->folder, 2, $progress);
        self::assertIsArray($mesh);
        $read = Blob::decode((string) file_get_contents($mesh[0]->blob));
        self::assertInstanceOf(TriangleMesh::class, $read);
        self::assertSame(Formats::read("$this->folder/a.glb")->geometry->positions, $read->positions);
        self::assertSame([Unit::Metre, 'mesh', 162, 320], [$mesh[0]->unit, $mesh[0]->kind, $mesh[0]->points, $mesh[0]->faces]);
        self::assertInstanceOf(UnreadableFile::class, $damaged);
        self::assertStringStartsWith('b.ply: ', $damaged->getMessage());
        self::assertStringNotContainsString('emberstone:', $damaged->getMessage());
        self::assertIsArray($cloud);
        self::assertSame([4.0, null], [$cloud[0]->size, $cloud[0]->unit]);
        self::assertSame(1.0, $progress->fractions === [] ? 0.0 : max($progress->fractions));
    }

    #[Test]
    public function a_file_too_large_for_the_memory_and_one_that_takes_too_long_are_refused_in_words(): void
    {
        file_put_contents("$this->folder/large.obj", str_repeat("v 1.25 2.5 3.75\n", 2_000_000));
        [$large] = (new ReadApart(memoryMb: 64))(["$this->folder/large.obj"], $this->folder, 1, new NoProgress);
        self::assertInstanceOf(UnreadableFile::class, $large);
        self::assertStringContainsString('large.obj: reading it takes more than 64 MB of memory', $large->getMessage());
        [$late] = (new ReadApart(seconds: 0.0))(["$this->folder/large.obj"], $this->folder, 1, new NoProgress);
        self::assertInstanceOf(UnreadableFile::class, $late);
        self::assertStringContainsString('took longer than 0 s', $late->getMessage());
    }

    #[Test]
    public function a_stop_ends_the_processes(): void
    {
        file_put_contents("$this->folder/large.xyz", str_repeat("1.25 2.5 3.75\n", 2_000_000));
        $stop = new class implements Progress
        {
            public function advance(string $stage, float $fraction): void
            {
                throw new OperationCancelled('Stopped.');
            }
        };
        try {
            (new ReadApart)(["$this->folder/large.xyz"], $this->folder, 1, $stop);
            self::fail('it went on');
        } catch (OperationCancelled) {
            exec('pgrep -f '.escapeshellarg("$this->folder/large.xyz"), $left);
            // pgrep's own shell names the file too.
            self::assertLessThanOrEqual(1, count($left));
        }
    }
}
