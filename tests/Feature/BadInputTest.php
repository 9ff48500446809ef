<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Each gives a clear message and loses nothing. */
final class BadInputTest extends TestCase
{
    private function emptyProject(): Project
    {
        $user = $this->user();
        $this->actingAs($user);

        return $this->project($user);
    }

    /** @return array<string, mixed> the last step of the ledger */
    private function lastStep(Project $project): array
    {
        $steps = $this->state($project->refresh())['steps'];

        return $steps[count($steps) - 1];
    }

    /** @param  array<string, mixed>  $parameters */
    private function try(Project $project, string $operation, array $parameters = []): string
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        $step = $this->lastStep($project);
        self::assertSame('failed', $step['state'], (string) json_encode($step));

        return $step['message'];
    }

    #[Test]
    public function a_mesh_is_no_pass_and_a_cloud_is_no_mesh(): void
    {
        $project = $this->emptyProject();
        $mesh = $this->upload($project, 'ball.stl', $this->stl(MeshBuilder::icosphere(2, 10.0)));
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$mesh], 'unit' => 'mm']])->assertAccepted();
        self::assertStringContainsString('two passes or more', $this->try($project, 'register'));
        self::assertStringContainsString('no pass to fuse', $this->try($project, 'fuse', ['voxel' => 1.0]));

        $cloud = implode("\n", array_map(fn (int $k) => ($k % 9).' '.intdiv($k, 9).' 0', range(0, 80)));
        $other = $this->project($project->owner);
        $upload = $this->upload($other, 'plate.xyz', $cloud);
        $this->postJson("/api/projects/$other->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        foreach (['fill-holes' => [], 'repair' => [], 'smooth' => [], 'decimate' => ['ratio' => 0.5]] as $operation => $parameters) {
            self::assertStringContainsString('There is no mesh', $this->try($other, $operation, $parameters), $operation);
        }
        self::assertCount(1, $this->state($other->refresh())['snapshot']['passes'], 'the pass is as it was');
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function hostileFiles(): iterable
    {
        yield 'a PLY that announces two thousand million vertices' => ['giant.ply', "ply\nformat binary_little_endian 1.0\nelement vertex 2000000000\nproperty float x\nproperty float y\nproperty float z\nend_header\n", 'giant.ply'];
        yield 'an STL that announces more faces than it holds' => ['liar.stl', str_repeat("\0", 80).pack('V', 4000000000).str_repeat("\0", 100), 'liar.stl'];
        yield 'an OFF with a face of a vertex that is not there' => ['bad.off', "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n", 'bad.off'];
        yield 'numbers that are not finite' => ['nan.xyz', "0 0 0\n1 nan 0\n0 1 inf\n", 'nan.xyz'];
        yield 'a picture' => ['photo.png', "\x89PNG\r\n\x1a\n".str_repeat('x', 200), 'photo'];
    }

    #[Test]
    #[DataProvider('hostileFiles')]
    public function a_hostile_file_is_refused_by_name_and_costs_nothing(string $name, string $bytes, string $named): void
    {
        $project = $this->emptyProject();
        $upload = $this->upload($project, $name, $bytes);
        memory_reset_peak_usage();
        $message = $this->try($project, 'import', ['uploads' => [$upload]]);
        self::assertStringContainsString($named, $message);
        self::assertLessThan(200e6, memory_get_peak_usage());
        self::assertSame([], $this->state($project)['snapshot']['passes']);
    }

    #[Test]
    public function files_over_4_gb_empty_ones_and_nameless_ones_are_refused_before_a_byte_is_sent(): void
    {
        $project = $this->emptyProject();
        $named = 'filename '.base64_encode('pass.ply');
        foreach ([[(string) (4 * 1024 ** 3 + 1), $named, 413, 'up to 4 GB'], ['0', $named, 422, 'is empty'], ['10', '', 422, 'needs a name'], ['much', $named, 400, 'Upload-Length']] as [$length, $metadata, $status, $words]) {
            $this->post("/api/projects/$project->id/uploads", [], ['Upload-Length' => $length, 'Upload-Metadata' => $metadata, 'Accept' => 'application/json'])->assertStatus($status)->assertSee($words);
        }
    }

    #[Test]
    public function a_file_name_cannot_leave_its_folder(): void
    {
        $project = $this->emptyProject();
        $upload = $this->upload($project, '../../etc/ball.stl', $this->stl(MeshBuilder::icosphere(1, 10.0)));
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        self::assertSame('ball', $this->state($project->refresh())['snapshot']['bodies'][0]['name']);
    }
}
