<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Services\BlobStore;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Mesh\TriangleMesh;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Frames and datums through the application: previews, what moving all costs, checks, and deliveries in a kept frame. */
final class OrientTest extends TestCase
{
    /**
     * @param  array<string, mixed>  $parameters
     * @return TestResponse<\Illuminate\Http\Response>
     */
    private function step(Project $project, string $operation, array $parameters): TestResponse
    {
        return $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
    }

    /** @return array<string, mixed> */
    private function snapshot(Project $project): array
    {
        return $this->state($project->refresh())['snapshot'];
    }

    #[Test]
    public function a_confirmed_scale_stands_in_the_ledger_and_lapses_when_the_size_changes(): void
    {
        $project = $this->withOpenBall();
        $line = fn (): string => array_column($this->state($project->refresh())['readyCard'], 'state', 'key')['scale'];
        self::assertSame('bad', $line());
        $this->step($project, 'confirm-scale', []);
        self::assertSame(['good', 'ada'], [$line(), $project->scaleConfirmed()['by'] ?? null]);
        $this->step($project, 'fill-holes', []);
        $this->step($project, 'shift', ['x' => 5.0]);
        self::assertSame('good', $line(), 'what leaves the size alone leaves it confirmed');
        $this->step($project, 'scale', ['factor' => 0.001]);
        self::assertSame('bad', $line());
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        self::assertSame('good', $line());
        foreach (range(1, 3) as $_) {
            $this->postJson("/api/projects/$project->id/undo")->assertOk();
        }
        self::assertSame('bad', $line(), 'undone like any step');
        // A project of an older version has it as a fact of its own, until its size changes.
        $project->update(['scale_confirmed' => ['by' => 'Oda Kern', 'at' => '2026-11-29T10:00:00+00:00']]);
        self::assertSame('good', $line());
        $this->step($project, 'shift', ['x' => 1.0]);
        self::assertSame(['good', 'Oda Kern'], [$line(), $project->scaleConfirmed()['by'] ?? null]);
        $this->step($project, 'set-unit', ['unit' => 'cm']);
        self::assertSame('bad', $line());
    }

    #[Test]
    public function moving_all_reads_no_geometry_and_loses_nothing(): void
    {
        $project = $this->withOpenBall();
        $cloud = "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n4 2 3\n1 7 3\n1 2 30\n";
        $this->step($project, 'import', ['uploads' => [$this->upload($project, 'pass.ply', $cloud)], 'unit' => 'mm']);
        $pass = $this->snapshot($project)['passes'][0];
        $this->step($project, 'cut-away', ['selection' => [['target' => $pass['id'], 'ranges' => [[1, 1]]]]]);
        $before = $this->snapshot($project);
        self::assertSame([4, 3], [$before['passes'][0]['points'], $before['passes'][0]['kept']]);
        $this->step($project, 'add-datum', ['name' => 'up', 'kind' => 'plane', 'typed' => ['origin' => [0, 0, 5], 'direction' => [1, 0, 0]]]);
        // What is read comes back from the database.
        $store = $this->app->make(BlobStore::class);
        $hidden = [];
        foreach ([...$before['passes'], ...$before['bodies']] as $row) {
            foreach (array_filter([$row['blob'], $row['mask'] ?? null]) as $hash) {
                $path = $store->path($hash);
                rename($path, $hidden[$path] = "$path.away");
            }
        }
        $this->step($project, 'set-frame', ['first' => ['datum' => 'up', 'to' => 'XY'], 'offset' => [0, 0, 2]]);
        $after = $this->snapshot($project);
        foreach ($hidden as $path => $kept) {
            self::assertFileDoesNotExist($path, 'nobody asked for it');
            rename($kept, $path);
        }
        self::assertSame('done', $project->refresh()->head?->state);
        $still = fn (array $row) => array_diff_key($row, ['transform' => 0, 'bounds' => 0, 'figures' => 0, 'figuresKey' => 0]);
        self::assertEquals(array_map($still, [...$before['passes'], ...$before['bodies']]), array_map($still, [...$after['passes'], ...$after['bodies']]));
        // The outside of the plane looks down: +X of before is -Z now, and the plane lies at 2.
        $m = $after['passes'][0]['transform'];
        self::assertEqualsWithDelta([-1.0, 0.0, 0.0, 2.0], array_slice($m, 8, 4), 1e-12);
        self::assertEqualsWithDelta([2.0 - 1.0, 2.0 - 1.0], [$after['passes'][0]['bounds']['min'][2], $after['passes'][0]['bounds']['max'][2]], 1e-6, 'kept points all have x = 1');
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        self::assertSame($before['passes'][0]['transform'], $this->snapshot($project)['passes'][0]['transform']);
    }

    #[Test]
    public function the_preview_of_a_datum_says_how_far_each_face_lies_from_it(): void
    {
        $project = $this->withOpenBall();
        $fit = $this->postJson("/api/projects/$project->id/datum-preview", ['body' => $this->snapshot($project)['bodies'][0]['id'], 'face' => 100, 'kind' => 'sphere', 'angle' => 30])->assertOk()->json();
        self::assertCount(count($fit['faces']), $fit['outside']);
        // The middles of flat faces lie inside the ball that their corners lie on.
        self::assertLessThan(0.0, max($fit['outside']));
        self::assertGreaterThan(-0.15, min($fit['outside']));
    }

    #[Test]
    public function a_kept_frame_is_set_again_checked_and_delivered_in(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'add-datum', ['name' => 'Press side', 'kind' => 'frame']);
        $this->step($project, 'shift', ['x' => 40.0]);
        $this->step($project, 'turn', ['axis' => 'z', 'angle' => 90]);
        $at = $this->snapshot($project);
        $frame = $at['datums'][0];
        self::assertEqualsWithDelta([0.0, 40.0, 0.0], $frame['origin'], 1e-9);
        $rows = $this->getJson("/api/projects/$project->id/frame-check")->assertOk()->json();
        self::assertSame(['X', 'Y', 'Z'], array_column($rows, 'what'));
        self::assertEqualsWithDelta(40.0, $rows[1]['value'], 1e-9);

        $body = $at['bodies'][0]['id'];
        foreach (['' => [30.0, 50.0], "&frame={$frame['id']}" => [-10.0, 10.0]] as $query => [$least, $most]) {
            $file = $this->get("/api/projects/$project->id/bodies/$body/download?format=stl$query")->assertOk()->baseResponse;
            self::assertInstanceOf(\Symfony\Component\HttpFoundation\BinaryFileResponse::class, $file);
            $mesh = Formats::read($file->getFile()->getPathname())->geometry;
            self::assertInstanceOf(TriangleMesh::class, $mesh);
            $y = array_values(array_filter($mesh->positions, fn (int $i) => $i % 3 === 1, ARRAY_FILTER_USE_KEY));
            self::assertEqualsWithDelta([$least, $most], [min($y), max($y)], 0.2, $query);
        }
        $this->get("/api/projects/$project->id/bodies/$body/download?format=stl&frame=nowhere")->assertNotFound();

        $preview = $this->postJson("/api/projects/$project->id/frame-preview", ['first' => ['datum' => 'Press side']])->assertOk()->json();
        self::assertSame(['Press side'], array_values(array_unique($preview['locks'])));
        self::assertSame([null], array_values(array_unique($preview['plusMinus'])));
        $this->step($project, 'set-frame', ['first' => ['datum' => 'Press side']]);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $this->snapshot($project)['datums'][0]['origin'], 1e-9);
    }
}
