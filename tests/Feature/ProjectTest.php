<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Step;
use App\Models\User;
use App\Services\OneMoment;
use App\Services\StepSweep;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\Png;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\Fluent\AssertableJson;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** The job over HTTP, against a real database; steps run at once (sync queue). */
final class ProjectTest extends TestCase
{
    #[Test]
    public function a_guest_is_sent_to_sign_in_and_reads_nothing(): void
    {
        $this->get('/')->assertRedirect('/sign-in');
        $this->getJson('/api/projects')->assertUnauthorized();
        $this->getJson('/api/operations')->assertUnauthorized();
    }

    #[Test]
    public function a_wrong_password_is_refused_in_words(): void
    {
        $this->user();
        $this->post('/sign-in', ['email' => 'ada@orchard-press.example', 'password' => 'guess'])->assertSessionHasErrors('email');
        $this->post('/sign-in', ['email' => 'ada@orchard-press.example', 'password' => 'a long password'])->assertRedirect('/');
        $this->assertAuthenticated();
    }

    #[Test]
    public function strangers_see_nothing_of_a_project_and_the_invited_all_of_it(): void
    {
        $project = $this->withOpenBall();
        $hash = $this->state($project)['snapshot']['bodies'][0]['blob'];
        $this->actingAs($this->user('stranger'));
        foreach (["/api/projects/$project->id", "/api/projects/$project->id/blobs/$hash"] as $url) {
            $this->getJson($url)->assertForbidden();
        }
        $this->postJson("/api/projects/$project->id/undo")->assertForbidden();
        $this->getJson('/api/projects')->assertExactJson([]);
        $other = $this->project(auth()->user());
        $this->getJson("/api/projects/$other->id/blobs/$hash")->assertNotFound();
        $guest = $this->user('guest');
        $this->artisan('emberstone:invite', ['project' => $project->id, 'email' => 'nobody@orchard-press.example']);
        $this->artisan('emberstone:invite', ['project' => $project->id, 'email' => $guest->email]);
        $this->actingAs($guest);
        $this->getJson("/api/projects/$project->id")->assertOk();
        $this->deleteJson("/api/projects/$project->id")->assertForbidden();
    }

    #[Test]
    public function an_archived_project_says_so_in_the_list_and_comes_back(): void
    {
        $project = $this->withOpenBall();
        $this->getJson('/api/projects')->assertJsonPath('0.archived', false);
        $this->patchJson("/api/projects/$project->id", ['archived' => true])->assertOk();
        $this->getJson('/api/projects')->assertJsonPath('0.archived', true);
        $this->patchJson("/api/projects/$project->id", ['archived' => false])->assertOk();
        $this->getJson('/api/projects')->assertJsonPath('0.archived', false);
    }

    #[Test]
    public function a_still_that_a_view_has_drawn_is_kept_for_lists_and_nothing_else_is(): void
    {
        $project = $this->withOpenBall();
        $hash = $this->state($project)['snapshot']['bodies'][0]['blob'];
        $url = "/api/projects/$project->id/pictures/$hash";
        $this->getJson('/api/projects')->assertJsonPath('0.picture.isStored', false);
        $this->getJson($url)->assertNotFound();
        $picture = fn (int $columns, int $rows): string => Png::coloured(str_repeat("\x80\x40\x20", $columns * $rows), $columns);
        $png = $picture(64, 32);
        $put = fn (string $url, string $bytes) => $this->call('PUT', $url, [], [], [], ['CONTENT_TYPE' => 'image/png', 'HTTP_ACCEPT' => 'application/json'], $bytes);
        $put($url, '<svg onload="alert(1)"/>')->assertUnprocessable();
        $put($url, $picture(2000, 10))->assertUnprocessable();
        $put(str_replace($hash, str_repeat('0', 64), $url), $png)->assertNotFound();
        $put($url, $png)->assertNoContent();
        $this->getJson('/api/projects')->assertJsonPath('0.picture.isStored', true);
        $this->assertSame($png, $this->get($url)->assertOk()->assertHeader('Content-Type', 'image/png')->baseResponse->getFile()->getContent());
        $this->actingAs($this->user('stranger'));
        $this->getJson($url)->assertForbidden();
        $put($url, $png)->assertForbidden();
    }

    #[Test]
    public function a_window_sees_who_else_has_the_project_open(): void
    {
        $project = $this->withOpenBall();
        $owner = auth()->user();
        assert($owner instanceof User);
        $guest = $this->user('guest');
        $project->welcome($guest);
        $this->assertSame([], $this->state($project)['project']['here']);
        $this->actingAs($guest);
        $this->assertSame([$owner->name], $this->state($project)['project']['here']);
        $this->actingAs($owner);
        $this->assertSame([$guest->name], $this->state($project)['project']['here']);
        $this->travel(20)->seconds();
        $this->assertSame([], $this->state($project)['project']['here']);
    }

    #[Test]
    public function an_estimate_is_a_range_that_goes_by_how_long_such_steps_took_here(): void
    {
        $project = $this->withOpenBall();
        $range = fn (): array => $this->postJson("/api/projects/$project->id/estimate", ['operation' => 'repair', 'parameters' => []])->assertOk()->json('seconds');
        $own = 0.0;
        Cache::forget('machine-pace');
        [$low, $high] = $range();
        $this->assertEqualsWithDelta(4.0, $high / $low, 1e-9, 'of a machine of which nothing is known');
        $own = sqrt($low * $high);
        Cache::forever('machine-pace', 3.0);
        $this->assertEqualsWithDelta(3.0 * $low, $range()[0], 1e-9);
        foreach ([2.0, 2.2, 2.4] as $ratio) {
            $project->steps()->create(['operation' => 'repair', 'state' => 'done', 'estimated' => $own, 'seconds' => $ratio * $own]);
        }
        [$low, $high] = $range();
        $this->assertGreaterThan(1.4 * $own, $low);
        $this->assertLessThan(2.0 * $own, $low);
        $this->assertGreaterThan(2.4 * $own, $high);
        $this->assertLessThan(3.3 * $own, $high);
    }

    #[Test]
    public function a_step_keeps_what_it_was_estimated_at_and_when_it_began(): void
    {
        $project = $this->withOpenBall();
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'repair', 'parameters' => []])->assertSuccessful();
        $step = Step::query()->latest('id')->firstOrFail();
        $this->assertSame('done', $step->state);
        $this->assertGreaterThan(0.0, $step->estimated);
        $this->assertNotNull($step->begun_at);
        $this->assertNull(Step::query()->where('operation', 'import')->firstOrFail()->estimated);
    }

    #[Test]
    public function datums_kept_by_an_earlier_version_are_shown_whole(): void
    {
        $project = $this->withOpenBall();
        $head = Step::query()->findOrFail($project->head_step_id);
        $old = ['id' => 'base', 'name' => 'base', 'kind' => 'plane', 'origin' => [0, 0, 0], 'direction' => [0, 0, 1], 'radius' => 0, 'size' => 10, 'rms' => 0.02, 'max' => 0.1, 'points' => 400, 'made' => 'spread', 'bodyId' => null];
        $head->update(['snapshot' => [...$head->snapshot ?? [], 'datums' => [$old]]]);
        $this->assertSame([[], 0], array_map(fn (string $key) => $this->state($project)['snapshot']['datums'][0][$key], ['parents', 'halfAngleDeg']));
    }

    #[Test]
    public function known_lengths_are_balanced_before_the_step_and_scale_all_in_it(): void
    {
        $project = $this->withOpenBall();
        $lengths = [['from' => [0, 0, 0], 'to' => [10, 0, 0], 'actual' => 11], ['from' => [0, 0, 0], 'to' => [0, 20, 0], 'actual' => 22]];
        $this->postJson("/api/projects/$project->id/length-preview", ['lengths' => $lengths])->assertOk()->assertJsonPath('lengths.1.measured', 20)
            ->assertJson(fn (AssertableJson $json) => $json->where('factor', fn (float|int $factor) => abs($factor - 1.1) < 1e-12)->etc());
        $this->postJson("/api/projects/$project->id/length-preview", ['lengths' => [['from' => 'base', 'to' => [0, 0, 0], 'actual' => 1]]])->assertUnprocessable()->assertSee('there are no datums yet');
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'scale', 'parameters' => ['lengths' => $lengths]])->assertAccepted();
        $this->assertEqualsWithDelta(1.1, $this->state($project)['snapshot']['bodies'][0]['transform'][0], 1e-12);
    }

    #[Test]
    public function fill_undo_redo_and_download_give_a_closed_file_in_inches_with_y_up(): void
    {
        $project = $this->withOpenBall();
        $project->update(['brief' => [...$project->brief, 'unit' => 'in', 'up' => '+y']]);
        $this->assertSame('bad', $this->state($project)['readyCard'][0]['state']);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => ['shape' => 'curved']])->assertAccepted();
        $filled = $this->state($project);
        $this->assertSame('good', $filled['readyCard'][0]['state']);
        $this->assertSame(['import', 'fill-holes'], array_column($filled['steps'], 'operation'));
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $undone = $this->state($project->refresh());
        $this->assertSame(['done', 'set-aside'], array_column($undone['steps'], 'state'));
        $this->assertSame('bad', $undone['readyCard'][0]['state']);
        $this->postJson("/api/projects/$project->id/redo")->assertOk();
        $again = $this->state($project->refresh());
        $this->assertSame($filled['snapshot'], $again['snapshot']);
        $response = $this->get("/api/projects/$project->id/bodies/{$again['snapshot']['bodies'][0]['id']}/download?format=ply")->assertOk();
        $this->assertStringContainsString("$project->name, {$again['snapshot']['bodies'][0]['name']}.ply", (string) $response->headers->get('content-disposition'));
        $mesh = Formats::read($response->getFile()->getPathname())->geometry;
        $this->assertInstanceOf(TriangleMesh::class, $mesh);
        $this->assertTrue(Inspection::of($mesh)->closed);
        $this->assertEqualsWithDelta(10.0 / 25.4, max($mesh->positions), 0.02);
        // The filled cap was on top (+z); up is now +y.
        $top = array_search(1, $mesh->origin, true);
        $this->assertGreaterThan(0.25, $mesh->positions[3 * $mesh->faces[3 * $top] + 1]);
    }

    #[Test]
    public function moving_and_undoing_is_exact_to_the_last_bit(): void
    {
        $project = $this->withOpenBall();
        $before = $this->state($project)['snapshot']['bodies'];
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'scale', 'parameters' => ['factor' => 1.1]])->assertAccepted();
        $moved = $this->state($project->refresh())['snapshot']['bodies'];
        $this->assertSame($before[0]['blob'], $moved[0]['blob']);
        $this->assertNotSame($before[0]['transform'], $moved[0]['transform']);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->assertSame($before, $this->state($project->refresh())['snapshot']['bodies']);
    }

    #[Test]
    public function a_failed_step_says_why_changes_nothing_and_runs_again(): void
    {
        $project = $this->withOpenBall();
        $before = $this->state($project)['snapshot'];
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fuse', 'parameters' => ['voxel' => 1.0]])->assertAccepted();
        $state = $this->state($project->refresh());
        $this->assertSame('failed', $state['steps'][1]['state']);
        $this->assertStringContainsString('There is no pass to fuse', $state['steps'][1]['message']);
        $this->assertSame($before, $state['snapshot']);
        $this->postJson("/api/projects/$project->id/steps/{$state['steps'][1]['id']}/again")->assertAccepted();
        $this->assertCount(3, $this->state($project->refresh())['steps']);
    }

    #[Test]
    public function a_damaged_file_is_refused_by_name_and_the_rest_is_kept(): void
    {
        $project = $this->withOpenBall();
        $upload = $this->upload($project, 'broken.ply', "ply\nformat ascii 1.0\nelement vertex 5\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n");
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload]]])->assertAccepted();
        $state = $this->state($project->refresh());
        $this->assertSame('failed', $state['steps'][1]['state']);
        $this->assertStringContainsString('broken.ply', $state['steps'][1]['message']);
        $this->assertCount(1, $state['snapshot']['bodies']);
    }

    #[Test]
    public function wrong_parameters_are_refused_before_anything_is_queued(): void
    {
        $project = $this->withOpenBall();
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 7]])->assertUnprocessable()->assertJsonPath('parameter', 'ratio');
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'melt'])->assertUnprocessable();
        $this->postJson('/api/projects', ['name' => ''])->assertUnprocessable();
        $this->postJson('/api/projects', ['name' => 'x', 'brief' => ['up' => '+w']])->assertUnprocessable();
        $this->assertCount(1, $this->state($project)['steps']);
    }

    #[Test]
    public function an_upload_cut_off_goes_on_where_it_stopped(): void
    {
        $user = $this->user();
        $project = $this->project($user);
        $this->actingAs($user);
        $url = (string) $this->post("/api/projects/$project->id/uploads", [], ['Upload-Length' => '10', 'Upload-Metadata' => 'filename '.base64_encode('../../p.xyz')])->headers->get('Location');
        $this->piece($url, 0, '1 2 3')->assertNoContent();
        $this->piece($url, 0, '1 2 3')->assertConflict();
        $this->head($url)->assertOk()->assertHeader('Upload-Offset', '5');
        $this->piece($url, 5, "\n4 5 ")->assertNoContent()->assertHeader('Upload-Offset', '10');
        $this->assertDatabaseHas('uploads', ['name' => 'p.xyz', 'received' => 10]);
        $this->post("/api/projects/$project->id/uploads", [], ['Upload-Length' => (string) (5 * 1024 ** 3), 'Upload-Metadata' => 'filename '.base64_encode('a.ply')])->assertStatus(413);
    }

    #[Test]
    public function a_step_whose_worker_died_is_found_and_one_that_lives_is_left(): void
    {
        $project = $this->withOpenBall();
        $step = $project->steps()->create(['operation' => 'fill-holes', 'state' => 'running']);
        // Another connection holds the lock, as a living worker does.
        config(['database.connections.other' => config('database.connections.pgsql')]);
        DB::connection('other')->selectOne('select pg_advisory_lock(20261123, ?)', [$step->id]);
        $this->assertSame('running', collect($this->state($project)['steps'])->firstWhere('id', $step->id)['state']);
        DB::disconnect('other');
        $deadline = microtime(true) + 5;
        do {
            app(StepSweep::class)($project);
        } while ($step->refresh()->state === 'running' && microtime(true) < $deadline);
        $this->assertSame('failed', $step->state);
        $this->assertStringContainsString('Interrupted', (string) $step->message);
    }

    #[Test]
    public function a_worker_that_lost_its_lock_with_its_connection_but_gives_signs_of_life_is_left(): void
    {
        $project = $this->withOpenBall();
        $step = $project->steps()->create(['operation' => 'fill-holes', 'state' => 'running', 'beat_at' => now()]);
        app(StepSweep::class)($project);
        $this->assertSame('running', $step->refresh()->state);
        $step->update(['beat_at' => now()->subSeconds(StepSweep::SILENCE + 1)]);
        app(StepSweep::class)($project);
        $this->assertSame('failed', $step->refresh()->state);
    }

    #[Test]
    public function a_step_that_ends_while_the_project_is_read_is_shown_with_what_it_made(): void
    {
        $project = $this->withOpenBall();
        $step = $project->steps()->create(['operation' => 'fill-holes', 'state' => 'running', 'beat_at' => now(), 'parent_id' => $project->head_step_id]);
        $first = true;
        // The project is found by its id first of all; then the step ends.
        Project::retrieved(function (Project $found) use ($step, &$first): void {
            if ($first) {
                $first = false;
                $step->update(['state' => 'done', 'snapshot' => ['bodies' => []] + $found->snapshot()]);
                DB::table('projects')->where('id', $found->id)->update(['head_step_id' => $step->id]);
            }
        });
        $state = $this->state($project);
        $this->assertSame('done', collect($state['steps'])->firstWhere('id', $step->id)['state'] ?? 'not shown');
        $this->assertSame([], $state['snapshot']['bodies']);
    }

    #[Test]
    public function tables_read_as_of_one_moment_do_not_see_what_is_committed_meanwhile(): void
    {
        config(['database.connections.reader' => config('database.connections.pgsql'), 'database.connections.writer' => config('database.connections.pgsql')]);
        $default = DB::getDefaultConnection();
        $writer = DB::connection('writer');
        $writer->statement('create table moments (n int)');
        try {
            DB::setDefaultConnection('reader');
            $seen = OneMoment::of(function () use ($writer): array {
                $before = DB::table('moments')->count();
                $writer->table('moments')->insert(['n' => 1]);

                return [$before, DB::table('moments')->count()];
            });
            $this->assertSame([0, 0], $seen);
            $this->assertSame(1, DB::table('moments')->count());
        } finally {
            DB::setDefaultConnection($default);
            DB::purge('reader');
            $writer->statement('drop table moments');
            DB::purge('writer');
        }
    }

    #[Test]
    public function undo_waits_while_a_step_runs(): void
    {
        $project = $this->withOpenBall();
        $project->steps()->create(['operation' => 'fill-holes', 'state' => 'waiting']);
        $this->postJson("/api/projects/$project->id/undo")->assertConflict();
    }

    #[Test]
    public function a_click_on_the_body_is_answered_with_a_fit(): void
    {
        $project = $this->withOpenBall();
        $body = $this->state($project)['snapshot']['bodies'][0];
        $this->postJson("/api/projects/$project->id/datum-preview", ['body' => $body['id'], 'face' => 3, 'kind' => 'plane', 'angle' => 12])->assertOk()->assertJsonPath('datum.kind', 'plane');
        $this->postJson("/api/projects/$project->id/datum-preview", ['body' => $body['id'], 'face' => 99999999, 'kind' => 'plane', 'angle' => 12])->assertUnprocessable();
        $this->postJson("/api/projects/$project->id/estimate", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.1]])->assertOk()->assertJsonStructure(['seconds', 'memoryMb', 'faces', 'refusal']);
    }

    #[Test]
    public function an_estimate_counts_what_the_operation_looks_at_beside_what_it_works_on(): void
    {
        $project = $this->withOpenBall();
        $memory = fn (): float => (float) $this->postJson("/api/projects/$project->id/estimate", ['operation' => 'compare', 'parameters' => []])->assertOk()->json('memoryMb');
        $before = $memory();
        $points = implode("\n", array_map(fn (int $k) => sprintf('%d %d 11', $k % 100, intdiv($k, 100)), range(0, 19_999)));
        $upload = $this->upload($project, 'pass.ply', "ply\nformat ascii 1.0\nelement vertex 20000\nproperty float x\nproperty float y\nproperty float z\nend_header\n$points\n");
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        // 20,000 points of 250 bytes.
        $this->assertEqualsWithDelta($before + 5.0, $memory(), 0.01);
    }

    #[Test]
    public function a_project_that_has_not_changed_is_not_sent_again(): void
    {
        $project = $this->withOpenBall();
        $first = $this->getJson("/api/projects/$project->id")->assertOk();
        $mark = (string) $first->headers->get('ETag');
        self::assertNotSame('', $mark);
        // As nginx weakens it where it packs the answer.
        foreach ([$mark, "W/$mark"] as $known) {
            self::assertSame('', $this->getJson("/api/projects/$project->id", ['If-None-Match' => $known])->assertStatus(304)->getContent());
        }
        $this->patchJson("/api/projects/$project->id", ['name' => 'Bush of the press'])->assertOk();
        self::assertSame('Bush of the press', $this->getJson("/api/projects/$project->id", ['If-None-Match' => $mark])->assertOk()->json('project.name'));
    }
}
