<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Contract;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Rigs\Catalogue as Rigs;
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
    public function compare_takes_both_files_in_the_unit_of_the_first(): void
    {
        // GLB is in metres, STL does not say and counts as millimetres.
        [$status] = $this->call('convert', 'ball.stl', 'ball.glb');
        self::assertSame(0, $status);
        $there = json_decode($this->call('compare', 'ball.stl', 'ball.glb', '--samples', '2000')[1], true);
        $back = json_decode($this->call('compare', 'ball.glb', 'ball.stl', '--samples', '2000')[1], true);
        self::assertLessThan(1e-3, $there['max']);
        self::assertLessThan(1e-6, $back['max']);
    }

    #[Test]
    public function a_step_works_on_the_named_and_a_wrong_name_is_an_error_before_anything_runs(): void
    {
        Formats::write("$this->folder/Cap.ply", MeshBuilder::icosphere(3, 10.0));
        Formats::write("$this->folder/Bush.ply", MeshBuilder::icosphere(3, 5.0));
        @mkdir("$this->folder/again");
        Formats::write("$this->folder/again/Cap.ply", MeshBuilder::icosphere(2, 10.0));
        $recipe = function (array ...$steps): void {
            file_put_contents("$this->folder/r.json", json_encode(['recipe' => 1, 'steps' => $steps], JSON_THROW_ON_ERROR));
        };
        $recipe(['op' => 'copy', 'on' => ['Bush']], ['op' => 'decimate', 'ratio' => 0.5, 'on' => ['Cap', 'Bush, copy'], 'tag' => 'light'], ['op' => 'shift', 'x' => 3.0, 'on' => ['light']]);
        [$status, $out, $err] = $this->call('run', 'r.json', 'Cap.ply', 'Bush.ply', 'again/Cap.ply', '--out', 'on', '--quiet');
        self::assertSame([0, ''], [$status, $err]);
        $report = json_decode($out, true);
        self::assertSame(['Cap' => 640, 'Bush' => 1280, 'Cap-2' => 320, 'Bush, copy' => 640], array_column($report['bodies'], 'faces', 'name'));
        self::assertSame([3.0, 0.0, 0.0, 3.0], array_map(fn (array $body) => round(0.5 * ($body['bounds']['min'][0] + $body['bounds']['max'][0]), 1) + 0.0, $report['bodies']));
        self::assertSame([['Bush'], ['Cap', 'Bush, copy'], ['light']], array_column($report['steps'], 'on'));

        $recipe(['op' => 'decimate', 'ratio' => 0.5], ['op' => 'shift', 'x' => 1.0, 'on' => ['Lid']]);
        [$status, , $err] = $this->call('run', 'r.json', 'Cap.ply', '--out', 'off', '--quiet');
        self::assertSame(2, $status);
        self::assertStringContainsString('step 2 (shift): on names "Lid", but at that step there is Cap', $err);
        self::assertSame([], glob("$this->folder/off/*"));
    }

    #[Test]
    public function a_step_that_fails_leaves_what_was_done_before_it(): void
    {
        file_put_contents("$this->folder/r.json", json_encode(['recipe' => 1, 'steps' => [['op' => 'decimate', 'ratio' => 0.5], ['op' => 'fuse', 'voxel' => 1.0], ['op' => 'shift', 'x' => 1.0]]], JSON_THROW_ON_ERROR));
        [$status, $out, $err] = $this->call('run', 'r.json', 'ball.stl', '--out', 'failed', '--quiet');
        self::assertSame([1, ''], [$status, $out]);
        self::assertStringContainsString('step 2 (fuse)', $err);
        $report = json_decode((string) file_get_contents("$this->folder/failed/report.json"), true);
        self::assertSame([2, 'fuse'], [$report['failed']['step'], $report['failed']['op']]);
        self::assertSame(['decimate'], array_column($report['steps'], 'op'));
        self::assertSame($report['bodies'][0]['faces'], Formats::read("$this->folder/failed/{$report['bodies'][0]['file']}")->geometry->faceCount());
    }

    #[Test]
    public function a_run_that_stopped_goes_on_from_there_to_the_same_bits(): void
    {
        $rest = [['op' => 'section', 'plane' => 'XY', 'tag' => 'cut', 'on' => ['ball']], ['op' => 'add-datum', 'name' => 'Axis', 'kind' => 'line', 'typed' => ['origin' => [1, 2, 3], 'direction' => [0, 0, 1]]], ['op' => 'smooth', 'strength' => 0.3]];
        $recipe = fn (array $third): string => json_encode(['recipe' => 1, 'unit' => 'in', 'steps' => [...$rest, $third, ['op' => 'scale', 'factor' => 1.7]]], JSON_THROW_ON_ERROR);
        file_put_contents("$this->folder/bad.json", $recipe(['op' => 'set-frame', 'first' => 'Axes']));
        file_put_contents("$this->folder/good.json", $recipe(['op' => 'set-frame', 'first' => 'Axis']));
        file_put_contents("$this->folder/other.json", str_replace('0.3', '0.4', $recipe(['op' => 'set-frame', 'first' => 'Axis'])));
        Formats::write("$this->folder/far.ply", PointCloud::fromFlat([1e6 + 1.0 / 3.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0], [], [1, 2, 0xFFFFFF], [1.0, 2.0, 0.1]));
        [$status, , $err] = $this->call('run', 'bad.json', 'ball.stl', 'far.ply', '--out', 'stopped', '--quiet');
        self::assertSame(1, $status);
        self::assertStringContainsString('step 4 (set-frame)', $err);
        // As it is, it fails again; a recipe that did other things before is another one.
        self::assertSame(1, $this->call('run', '--resume', 'stopped', '--quiet')[0]);
        [$status, , $err] = $this->call('run', 'other.json', '--resume', 'stopped', '--quiet');
        self::assertSame([2, true], [$status, str_contains($err, 'differs from the one that was run before step 4, at step 3')]);
        self::assertSame(0, $this->call('run', 'good.json', '--resume', 'stopped', '--quiet')[0]);
        self::assertSame(0, $this->call('run', 'good.json', 'ball.stl', 'far.ply', '--out', 'whole', '--quiet')[0]);
        foreach (glob("$this->folder/whole/*") ?: [] as $file) {
            [$here, $there] = array_map(fn (string $folder) => (string) preg_replace('/"(seconds|peakMemoryMb)": [\d.]+/', '', (string) file_get_contents("$this->folder/$folder/".basename($file))), ['whole', 'stopped']);
            self::assertSame($here, $there, basename($file));
        }
        self::assertDirectoryDoesNotExist("$this->folder/stopped/unfinished");
        [$status, , $err] = $this->call('run', '--resume', 'whole', '--quiet');
        self::assertSame(2, $status);
        self::assertStringContainsString('no run was left unfinished here', $err);
    }

    #[Test]
    public function a_simulated_camera_takes_points_as_dense_as_it_is_told(): void
    {
        $part = Rigs::part('bush');
        $points = array_map(fn (float $density) => Rigs::rig('ring', pixels: Rigs::pixels($part, $density))->capture($part, 0, 1)['cloud']->count(), [0.5, 2.0]);
        self::assertEqualsWithDelta(4.0, $points[1] / $points[0], 0.1);
        [$status, , $err] = $this->call('simulate', 'bush', '--rig', 'tripod', '--out', 'dense', '--density', '2', '--quiet');
        self::assertSame(2, $status);
        self::assertStringContainsString('the tripod turns', $err);
    }

    #[Test]
    public function a_state_that_was_damaged_is_refused_by_name(): void
    {
        file_put_contents("$this->folder/bad.json", json_encode(['recipe' => 1, 'steps' => [['op' => 'smooth'], ['op' => 'fuse', 'voxel' => 1.0]]], JSON_THROW_ON_ERROR));
        foreach (['bodies-0.positions' => 'bytes long', 'state.json' => 'is damaged'] as $name => $words) {
            $this->call('run', 'bad.json', 'ball.stl', '--out', 'torn', '--quiet');
            $file = "$this->folder/torn/unfinished/$name";
            file_put_contents($file, substr((string) file_get_contents($file), 0, -9));
            [$status, $out, $err] = $this->call('run', '--resume', 'torn', '--quiet');
            self::assertSame([2, ''], [$status, $out]);
            self::assertStringContainsString($words, $err);
        }
    }

    #[Test]
    public function a_recipe_in_inches_does_to_a_file_in_metres_what_one_in_millimetres_does(): void
    {
        Formats::write("$this->folder/metres.ply", MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0)->scaled(0.001), new WriteOptions(unit: Unit::Metre));
        $steps = fn (float $mm): string => json_encode([['op' => 'fill-holes', 'maxDiameter' => 15.0 / $mm, 'shape' => 'flat'], ['op' => 'shift', 'x' => 5.08 / $mm], ['op' => 'scale', 'factor' => 2.0], ['op' => 'set-frame', 'first' => 'P', 'only' => ['open']]], JSON_THROW_ON_ERROR);
        $plane = fn (float $mm): string => json_encode(['op' => 'add-datum', 'name' => 'P', 'kind' => 'plane', 'typed' => ['origin' => [0.0, 0.0, -7.62 / $mm], 'direction' => [0.0, 0.0, -1.0]]], JSON_THROW_ON_ERROR);
        $reports = [];
        foreach ([['mm', 1.0, 'open.ply'], ['in', 25.4, 'metres.ply']] as [$unit, $mm, $file]) {
            $text = '{"recipe":1,"unit":"'.$unit.'","steps":['.$plane($mm).','.substr($steps($mm), 1);
            file_put_contents("$this->folder/r.json", str_replace('"open"', '"'.substr($file, 0, -4).'"', $text).'}');
            [$status, $out, $err] = $this->call('run', 'r.json', $file, '--out', "in-$unit", '--quiet');
            self::assertSame([0, ''], [$status, $err]);
            $reports[] = json_decode($out, true) + ['mm' => $mm, 'file' => Formats::read("$this->folder/in-$unit/$file")];
        }
        [$mm, $inch] = $reports;
        self::assertSame(['in', Unit::Inch], [$inch['unit'], $inch['file']->unit]);
        self::assertSame($mm['bodies'][0]['faces'], $inch['bodies'][0]['faces']);
        self::assertEqualsWithDelta($mm['bodies'][0]['bounds']['max'], array_map(fn (float $v) => 25.4 * $v, $inch['bodies'][0]['bounds']['max']), 1e-3);
        self::assertEqualsWithDelta($mm['bodies'][0]['area'], 25.4 ** 2 * $inch['bodies'][0]['area'], 1e-2);
        self::assertEqualsWithDelta($mm['datums'][0]['parameters']['point'], array_map(fn (float $v) => 25.4 * $v, $inch['datums'][0]['parameters']['point']), 1e-9);
        // Shifted by 5.08 mm, then everything twice as large; the frame was set for one body, not for all.
        self::assertEqualsWithDelta([2.0, 0.0, 0.0, 10.16, 0.0, 2.0, 0.0, 0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 0.0, 1.0], $mm['frame'], 1e-12);
        self::assertEqualsWithDelta([2.0, 0.0, 0.0, 0.4, 0.0, 2.0, 0.0, 0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 0.0, 1.0], $inch['frame'], 1e-12);
    }

    #[Test]
    public function what_nothing_was_done_to_is_written_bit_for_bit_in_its_own_unit(): void
    {
        $ball = MeshBuilder::icosphere(2, 0.3937);
        Formats::write("$this->folder/inches.ply", $ball, new WriteOptions(true, Unit::Inch));
        file_put_contents("$this->folder/r.json", '{"recipe":1,"unit":"in","steps":[{"op":"inspect"}]}');
        [$status] = $this->call('run', 'r.json', 'inches.ply', '--out', 'same', '--quiet');
        self::assertSame(0, $status);
        $was = Formats::read("$this->folder/inches.ply")->geometry->positions;
        self::assertSame(array_map(fn (float $v) => unpack('g', pack('g', $v))[1], $was), Formats::read("$this->folder/same/inches.ply")->geometry->positions);
    }

    #[Test]
    public function two_bodies_never_write_one_file(): void
    {
        foreach (['a+b', 'a_b', 'A_B'] as $k => $name) {
            Formats::write("$this->folder/$name.ply", MeshBuilder::icosphere(0, 1.0 + $k));
        }
        file_put_contents("$this->folder/r.json", '{"recipe":1,"steps":[{"op":"inspect"}]}');
        [$status, $out] = $this->call('run', 'r.json', 'a+b.ply', 'a_b.ply', 'A_B.ply', '--out', 'three', '--quiet');
        self::assertSame(0, $status);
        $bodies = json_decode($out, true)['bodies'];
        self::assertSame(['a_b.ply', 'a_b-2.ply', 'A_B-3.ply'], array_column($bodies, 'file'));
        foreach ($bodies as $k => $body) {
            self::assertEqualsWithDelta(1.0 + $k, sqrt(array_sum(array_map(fn (float $v) => $v * $v, array_slice(Formats::read("$this->folder/three/{$body['file']}")->geometry->positions, 0, 3)))), 1e-6);
        }
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
}
