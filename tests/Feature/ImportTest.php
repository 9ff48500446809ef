<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Upload;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\ReadApart;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;
use ZipArchive;

/** What comes in with one drop: several things in a file, files that cannot be read among good ones, and units that do not fit. */
final class ImportTest extends TestCase
{
    private function emptyProject(): Project
    {
        $user = $this->user();
        $this->actingAs($user);

        return $this->project($user);
    }

    /** A plate of 10 x 10 points, so many units long. */
    private static function plate(float $length): string
    {
        return implode("\n", array_map(fn (int $k) => sprintf('%.6g %.6g 0', $length * ($k % 10) / 9, $length * intdiv($k, 10) / 9), range(0, 99)));
    }

    /**
     * @param  list<string>  $uploads
     * @param  array<string, mixed>  $more
     * @return array<string, mixed> the state of the project
     */
    private function import(Project $project, array $uploads, array $more = []): array
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => $uploads] + $more])->assertAccepted();

        return $this->state($project->refresh());
    }

    /** @param  array<string, string>  $files */
    private static function zip(array $files): string
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'day');
        $zip = new ZipArchive;
        $zip->open($path, ZipArchive::OVERWRITE);
        foreach ($files as $name => $bytes) {
            $zip->addFromString($name, $bytes);
        }
        $zip->close();
        $bytes = (string) file_get_contents($path);
        unlink($path);

        return $bytes;
    }

    #[Test]
    public function a_zip_is_one_drop_of_many_passes_under_their_own_names(): void
    {
        $project = $this->emptyProject();
        $state = $this->import($project, [$this->upload($project, 'day.zip', self::zip(['pass-2.xyz' => self::plate(100), 'pass-1.xyz' => self::plate(90), 'photo.png' => 'x']))], ['unit' => 'mm']);
        self::assertSame(['pass-1', 'pass-2'], array_column($state['snapshot']['passes'], 'name'));
        self::assertSame('1 file, 2 passes · 200 points', $state['steps'][0]['figures']['headline']);
    }

    #[Test]
    public function one_damaged_file_keeps_the_others_in_and_is_named(): void
    {
        $project = $this->emptyProject();
        $uploads = [$this->upload($project, 'good.xyz', self::plate(100)), $this->upload($project, 'bad.ply', 'ply'), $this->upload($project, 'also good.xyz', self::plate(90))];
        $state = $this->import($project, $uploads, ['unit' => 'mm']);
        self::assertSame(['good', 'also good'], array_column($state['snapshot']['passes'], 'name'));
        self::assertStringStartsWith('Not brought in: bad.ply', $state['steps'][0]['figures']['notes'][0]);
        self::assertSame(1, $state['steps'][0]['figures']['after']['refused']);
        self::assertSame(0, Upload::query()->count(), 'nothing is left of the uploads');
        self::assertSame([], glob(storage_path('framework/import-*')));
    }

    #[Test]
    public function a_pass_in_inches_among_millimetres_is_pointed_out_and_put_right_by_setting_its_unit(): void
    {
        $project = $this->emptyProject();
        $uploads = array_map(fn (string $name, float $length) => $this->upload($project, "$name.xyz", self::plate($length)), ['a', 'b', 'c'], [200.0, 8.0, 190.0]);
        $state = $this->import($project, $uploads, ['unit' => 'mm']);
        [$odd] = $state['steps'][0]['figures']['after']['oddSizes'];
        self::assertSame([$state['snapshot']['passes'][1]['id'], 'in', 'mm', 203.2], [$odd['id'], $odd['unit'], $odd['was'], round($odd['sizeMm'], 6)]);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'set-unit', 'parameters' => ['unit' => 'in', 'was' => 'mm'], 'on' => [$odd['id']]])->assertAccepted();
        $passes = $this->state($project->refresh())['snapshot']['passes'];
        self::assertSame([1.0, 25.4, 1.0], array_map(fn (array $pass) => (float) $pass['transform'][0], $passes));
    }

    #[Test]
    public function scans_of_an_e57_come_in_where_their_poses_put_them(): void
    {
        $project = $this->emptyProject();
        $path = sys_get_temp_dir().'/hall-'.bin2hex(random_bytes(4)).'.e57';
        Formats::write($path, PointCloud::fromFlat([1000.0, 0.0, 0.0, 3000.0, 0.0, 0.0, 0.0, 500.0, 0.0], [], [], [100.0, 200.0, 300.0]));
        $state = $this->import($project, [$this->upload($project, 'hall.e57', (string) file_get_contents($path))]);
        unlink($path);
        $pass = $state['snapshot']['passes'][0];
        self::assertSame('hall', $pass['name']);
        self::assertEqualsWithDelta([100.0, 200.0, 300.0], Placement::fromMatrix($pass['transform'])->point([0.0, 0.0, 0.0]), 1e-9);
        self::assertNull($state['steps'][0]['figures']['after']['guessed'], 'E57 says its unit');
    }

    #[Test]
    public function a_file_beyond_the_limit_of_memory_fails_alone_and_in_words(): void
    {
        $this->app->bind(ReadApart::class, fn () => new ReadApart(memoryMb: 64));
        $project = $this->emptyProject();
        $uploads = [$this->upload($project, 'large.obj', str_repeat("v 1.25 2.5 3.75\nv 0 1 2\n", 1_000_000)), $this->upload($project, 'small.xyz', self::plate(100))];
        $state = $this->import($project, $uploads, ['unit' => 'mm']);
        self::assertSame(['small'], array_column($state['snapshot']['passes'], 'name'));
        self::assertStringContainsString('more than 64 MB of memory', $state['steps'][0]['figures']['notes'][0]);
    }

    #[Test]
    public function columns_of_a_text_file_are_shown_and_taken_as_they_were_confirmed(): void
    {
        $project = $this->emptyProject();
        $text = $this->upload($project, 'plate.txt', "y x z kind\n".str_repeat("1 20 3 7\n2 40 3 7\n", 10));
        $look = $this->getJson("/api/projects/$project->id/uploads/$text/columns")->assertOk()->json();
        self::assertSame([['x', 'y', 'z', 'skip'], 1, ['1', '20', '3', '7']], [$look['columns'], $look['heading'], $look['lines'][0]]);
        $mesh = $this->upload($project, 'ball.stl', $this->stl(MeshBuilder::icosphere(0)));
        $this->getJson("/api/projects/$project->id/uploads/$mesh/columns")->assertNoContent();
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$text], 'columns' => [$text => ['x', 'x', 'z', 'skip']]]])->assertUnprocessable()->assertJsonPath('message', 'Columns names x 2 times; each may be there once.');
        $state = $this->import($project, [$text], ['unit' => 'mm', 'columns' => [$text => ['y', 'x', 'z', 'skip']]]);
        self::assertSame([[20, 1, 3], [40, 2, 3]], [$state['snapshot']['passes'][0]['bounds']['min'], $state['snapshot']['passes'][0]['bounds']['max']]);
    }
}
