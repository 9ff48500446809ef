<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Contract;

use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Drives core/bin/emberstone as a script would. */
final class CommandLineTest extends TestCase
{
    use OwnFolder;

    protected function setUp(): void
    {
        Formats::write("$this->folder/ball.stl", MeshBuilder::icosphere(3, 10.0));
        Formats::write("$this->folder/open.ply", MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0));
    }

    /** @return array{int, string, string} status, output, messages */
    private function call(string ...$words): array
    {
        $process = proc_open([PHP_BINARY, __DIR__.'/../../bin/emberstone', ...$words], [1 => ['pipe', 'w'], 2 => ['pipe', 'w']], $pipes, $this->folder);
        assert(is_resource($process));
        [$out, $err] = [(string) stream_get_contents($pipes[1]), (string) stream_get_contents($pipes[2])];

        return [proc_close($process), $out, $err];
    }

    #[Test]
    public function inspect_prints_the_keys_of_the_contract(): void
    {
        [$status, $out] = $this->call('inspect', 'ball.stl');
        $report = json_decode($out, true);
        self::assertSame(0, $status);
        self::assertSame(['file', 'format', 'kind', 'points', 'faces', 'unit', 'bounds', 'area', 'volume', 'closed', 'pieces', 'genus', 'holes', 'faults'], array_keys($report));
        self::assertSame(['openEdges', 'nonManifoldEdges', 'nonManifoldVertices', 'degenerateFaces', 'duplicateFaces', 'inconsistentEdges', 'selfIntersections', 'spikes'], array_keys($report['faults']));
        self::assertTrue($report['closed']);
        self::assertEqualsWithDelta(4188.8, $report['volume'], 50.0);
    }

    #[Test]
    public function a_recipe_fills_and_lightens_a_mesh_and_reports_evidence(): void
    {
        file_put_contents("$this->folder/r.json", '{"recipe":1,"steps":[{"op":"fill-holes"},{"op":"decimate","ratio":0.5}]}');
        [$status, $out, $err] = $this->call('run', 'r.json', 'open.ply', '--out', 'result', '--format', 'stl', '--quiet');
        self::assertSame([0, ''], [$status, $err]);
        $report = json_decode((string) file_get_contents("$this->folder/result/report.json"), true);
        self::assertSame($report, json_decode($out, true));
        self::assertTrue($report['bodies'][0]['closed']);
        self::assertEqualsWithDelta(1.0, $report['bodies'][0]['evidence']['measured'] + $report['bodies'][0]['evidence']['filled'], 1e-12);
        self::assertGreaterThan(0.02, $report['bodies'][0]['evidence']['filled']);
        self::assertFileExists("$this->folder/result/{$report['bodies'][0]['file']}");
    }

    #[Test]
    public function compare_measures_a_ball_against_one_0_5_mm_larger(): void
    {
        Formats::write("$this->folder/larger.ply", MeshBuilder::icosphere(5, 10.5));
        [$status, $out] = $this->call('compare', 'ball.stl', 'larger.ply', '--samples', '5000');
        $found = json_decode($out, true);
        self::assertSame(0, $status);
        self::assertEqualsWithDelta(0.5, $found['mean'], 0.06);
        self::assertEqualsWithDelta(-0.5, $found['signedMean'], 0.06);
        self::assertEqualsWithDelta(5000, $found['samples'], 2);
    }

    #[Test]
    public function convert_changes_format_and_unit(): void
    {
        [$status] = $this->call('convert', 'ball.stl', 'ball.obj', '--unit', 'in');
        self::assertSame(0, $status);
        self::assertEqualsWithDelta(10.0 / 25.4, max(Formats::read("$this->folder/ball.obj")->geometry->positions), 0.01);
    }

    #[Test]
    public function wrong_calls_end_with_status_2_and_one_line(): void
    {
        file_put_contents("$this->folder/bad.json", '{"recipe":1,"steps":[{"op":"fuse","voxel":-1}]}');
        file_put_contents("$this->folder/bad.ply", 'ply');
        foreach ([['inspect', 'nothing.stl'], ['inspect', 'bad.ply'], ['run', 'bad.json', 'ball.stl', '--out', 'x'], ['frobnicate'], ['simulate', 'teapot', '--rig', 'handheld', '--out', 'y'], ['convert', 'ball.stl', 'ball.xls']] as $words) {
            [$status, $out, $err] = $this->call(...$words);
            self::assertSame(2, $status, implode(' ', $words).": $err");
            self::assertSame('', $out);
            self::assertSame(1, substr_count($err, "\n"), $err);
        }
        self::assertDirectoryDoesNotExist("$this->folder/x");
    }

    #[Test]
    public function a_step_that_cannot_be_carried_out_ends_with_status_1_and_writes_nothing(): void
    {
        file_put_contents("$this->folder/r.json", '{"recipe":1,"steps":[{"op":"fuse","voxel":1}]}');
        [$status, , $err] = $this->call('run', 'r.json', 'ball.stl', '--out', 'z', '--quiet');
        self::assertSame(1, $status);
        self::assertStringContainsString('step 1 (fuse): There is no pass to fuse', $err);
        self::assertSame([], glob("$this->folder/z/*"));
    }
}
