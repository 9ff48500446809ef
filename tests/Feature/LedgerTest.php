<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Step;
use App\Services\BlobStore;
use App\Services\JobProgress;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Going back, going on from an earlier step, several people at once, a database that drops its connections. */
final class LedgerTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters = []): int
    {
        return $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted()->json('id');
    }

    /** @return list<array{string, string}> operation and state of each card of the ledger */
    private function cards(Project $project): array
    {
        return array_map(fn (array $step) => [$step['operation'], $step['state']], $this->state($project)['steps']);
    }

    #[Test]
    public function a_step_runs_again_with_other_parameters_and_what_came_after_it_follows(): void
    {
        $project = $this->withOpenBall();
        $fill = $this->step($project, 'fill-holes', ['shape' => 'flat']);
        $this->step($project, 'decimate', ['ratio' => 0.5]);
        $this->step($project, 'scale', ['factor' => 2.0]);
        $flat = $this->state($project)['snapshot']['bodies'][0]['figures']['volume'];

        $this->postJson("/api/projects/$project->id/steps/$fill/rerun", ['parameters' => ['shape' => 'curved']])->assertAccepted();
        $state = $this->state($project->refresh());
        self::assertSame([['import', 'done'], ['fill-holes', 'done'], ['decimate', 'done'], ['scale', 'done']], $this->cards($project));
        self::assertSame('curved', $state['steps'][1]['parameters']['shape']);
        self::assertGreaterThan($flat, $state['snapshot']['bodies'][0]['figures']['volume'], 'the rounder cap holds more');

        // The old line is not lost: undone to where they part, it can be had again by its own steps.
        self::assertSame(3, Step::query()->where('project_id', $project->id)->where('state', 'set-aside')->count());
    }

    #[Test]
    public function parameters_that_do_not_fit_change_nothing(): void
    {
        $project = $this->withOpenBall();
        $fill = $this->step($project, 'fill-holes');
        $this->postJson("/api/projects/$project->id/steps/$fill/rerun", ['parameters' => ['shape' => 'wavy']])->assertStatus(422)->assertSee('wavy');
        self::assertSame([['import', 'done'], ['fill-holes', 'done']], $this->cards($project));
        $import = $this->state($project)['steps'][0]['id'];
        $this->postJson("/api/projects/$project->id/steps/$import/rerun", ['parameters' => []])->assertConflict()->assertSee('bring the files in once more');
    }

    #[Test]
    public function a_follow_up_does_not_run_when_the_step_before_it_fails(): void
    {
        $project = $this->withOpenBall();
        $pieces = $this->step($project, 'keep-pieces', ['minArea' => 1.0]);
        $this->step($project, 'fill-holes');
        $this->postJson("/api/projects/$project->id/steps/$pieces/rerun", ['parameters' => ['minArea' => 1e9]])->assertAccepted();
        self::assertSame([['import', 'done'], ['keep-pieces', 'set-aside'], ['fill-holes', 'set-aside'], ['keep-pieces', 'failed']], $this->cards($project->refresh()));
        $this->postJson("/api/projects/$project->id/redo")->assertOk();
        self::assertSame(['keep-pieces', 'done'], $this->cards($project->refresh())[1], 'the line before is still there');
    }

    #[Test]
    public function a_chain_stops_where_a_picked_hole_is_gone_and_goes_on_when_it_is_picked_anew(): void
    {
        $project = $this->withOpenBall();
        $scale = $this->step($project, 'scale', ['factor' => 2.0]);
        [$hole] = $this->state($project->refresh())['snapshot']['bodies'][0]['figures']['holes'];
        $this->step($project, 'fill-holes', ['leaveOpen' => [['at' => $hole['outline'][0], 'diameter' => $hole['diameter']]]]);
        $this->step($project, 'decimate', ['ratio' => 0.5]);
        $this->postJson("/api/projects/$project->id/steps/$scale/rerun", ['parameters' => ['factor' => 4.0]])->assertAccepted();
        $stopped = $this->state($project->refresh())['steps'];
        $failed = $stopped[count($stopped) - 1];
        self::assertSame(['fill-holes', 'failed', 1], [$failed['operation'], $failed['state'], $failed['follows']]);
        self::assertStringContainsString('that was left open at', $failed['message']);
        self::assertStringContainsString('is not here any more', $failed['message']);

        [$now] = $this->state($project)['snapshot']['bodies'][0]['figures']['holes'];
        $this->postJson("/api/projects/$project->id/steps/{$failed['id']}/again", ['parameters' => ['leaveOpen' => [['at' => $now['outline'][0], 'diameter' => $now['diameter']]]]])->assertAccepted();
        $state = $this->state($project->refresh());
        self::assertSame([['import', 'done'], ['scale', 'done'], ['fill-holes', 'done'], ['decimate', 'done']], array_slice($this->cards($project), 0, 4));
        self::assertSame(1, $state['snapshot']['bodies'][0]['figures']['leftOpen']);
    }

    #[Test]
    public function undo_goes_back_over_several_steps_at_once_and_redo_forward(): void
    {
        $project = $this->withOpenBall();
        $before = $this->state($project)['snapshot'];
        $import = $this->state($project)['steps'][0]['id'];
        $this->step($project, 'fill-holes');
        $this->step($project, 'scale', ['factor' => 3.0]);
        $after = $this->state($project)['snapshot'];
        $this->postJson("/api/projects/$project->id/undo", ['to' => $import])->assertOk();
        self::assertSame($before, $this->state($project->refresh())['snapshot']);
        self::assertSame(['set-aside', 'set-aside'], array_column(array_slice($this->cards($project), 1), 1));
        $this->postJson("/api/projects/$project->id/redo")->assertOk();
        $this->postJson("/api/projects/$project->id/redo")->assertOk();
        self::assertSame($after, $this->state($project->refresh())['snapshot'], 'bit by bit');
        $this->postJson("/api/projects/$project->id/undo", ['to' => 999999])->assertNotFound();
    }

    #[Test]
    public function two_people_on_one_project_do_not_undo_under_each_other(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'fill-holes');
        $guest = $this->user('guest');
        $this->postJson("/api/projects/$project->id/members", ['email' => $guest->email])->assertCreated();

        // The step of the first waits in the queue; the second looks at the same project.
        Queue::fake();
        $this->step($project, 'scale', ['factor' => 2.0]);
        $this->actingAs($guest);
        self::assertSame('waiting', $this->state($project)['steps'][2]['state']);
        self::assertSame([['ada', false, true], ['ada', false, true]], array_map(fn (array $step) => [$step['by'], $step['isMine'], $step['isTheirs']], array_slice($this->state($project)['steps'], 1)), 'who took it, and that it was not the one who asks');
        $this->postJson("/api/projects/$project->id/undo")->assertConflict()->assertSee('A step is running; wait for it or stop it first.');
        self::assertSame('done', $this->state($project)['steps'][1]['state']);
        // Both may add; the steps line up.
        $this->step($project, 'keep-pieces', ['largest' => 1]);
        self::assertSame(['waiting', 'waiting'], array_column(array_slice($this->state($project)['steps'], 2), 'state'));
    }

    #[Test]
    public function steps_of_two_people_run_one_after_the_other(): void
    {
        $project = $this->withOpenBall();
        $guest = $this->user('guest');
        $project->members()->attach($guest);
        Queue::fake();
        $first = $this->step($project, 'scale', ['factor' => 2.0]);
        $this->actingAs($guest);
        $second = $this->step($project, 'scale', ['factor' => 5.0]);
        foreach ([$second, $first, $second] as $id) {
            app()->call([new \App\Jobs\RunStep($id), 'handle']);
        }
        self::assertSame([$first, $second], array_column(array_slice($this->state($project->refresh())['steps'], 1), 'id'));
        self::assertEqualsWithDelta(10.0, $this->state($project)['snapshot']['bodies'][0]['transform'][0], 1e-12);
    }

    #[Test]
    public function only_the_owner_invites_and_takes_out(): void
    {
        $project = $this->withOpenBall();
        $guest = $this->user('guest');
        $this->postJson("/api/projects/$project->id/members", ['email' => 'nobody@orchard-press.example'])->assertStatus(422)->assertSee('Nobody here has the address');
        $this->postJson("/api/projects/$project->id/members", ['email' => 'not an address'])->assertStatus(422);
        $this->postJson("/api/projects/$project->id/members", ['email' => $guest->email])->assertCreated()->assertJsonPath('members.0.name', 'guest');
        $this->actingAs($guest);
        self::assertFalse($this->state($project)['project']['isOwner']);
        $this->postJson("/api/projects/$project->id/members", ['email' => $this->user('third')->email])->assertForbidden();
        $this->deleteJson("/api/projects/$project->id/members/$guest->id")->assertForbidden();
        $this->actingAs($project->owner);
        $this->deleteJson("/api/projects/$project->id/members/$guest->id")->assertOk()->assertJsonPath('members', []);
        $this->actingAs($guest);
        $this->getJson("/api/projects/$project->id")->assertForbidden();
    }

    #[Test]
    public function a_file_without_a_unit_is_guessed_said_in_words_and_set_right_in_one_click(): void
    {
        $user = $this->user();
        $project = $this->project($user);
        $this->actingAs($user);
        // 0.4 units across: metres, most likely.
        $upload = $this->upload($project, 'rim.stl', $this->stl(MeshBuilder::icosphere(2, 0.2)));
        $this->step($project, 'import', ['uploads' => [$upload]]);
        $state = $this->state($project->refresh());
        $guess = $state['steps'][0]['figures']['after']['guessed'];
        self::assertSame('m', $guess['unit']);
        self::assertEqualsWithDelta(400.0, $guess['lengthMm'], 5.0);
        self::assertStringContainsString('about 400 mm long, read as m by its size', $state['steps'][0]['figures']['notes'][0]);
        self::assertSame([$state['snapshot']['bodies'][0]['id']], $guess['items']);

        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'set-unit', 'parameters' => ['unit' => 'in', 'was' => 'm'], 'on' => $guess['items']])->assertAccepted();
        self::assertEqualsWithDelta(25.4, $this->state($project->refresh())['snapshot']['bodies'][0]['transform'][0], 1e-9);

        $upload = $this->upload($project, 'wheel.stl', $this->stl(MeshBuilder::icosphere(1, 105.0)));
        $this->step($project, 'import', ['uploads' => [$upload]]);
        self::assertSame('mm', $this->state($project->refresh())['steps'][2]['figures']['after']['guessed']['unit']);
    }

    #[Test]
    public function a_database_that_drops_all_connections_costs_no_work(): void
    {
        // Outside the test's transaction: it would go down with the connection.
        DB::rollBack();
        try {
            $project = $this->withOpenBall();
            $this->step($project, 'fill-holes');
            $before = $this->state($project);
            DB::purge('other');
            config(['database.connections.other' => config('database.connections.pgsql')]);
            DB::connection('other')->statement('select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()');
            DB::purge('other');
            self::assertSame($before, $this->state($project), 'the next request finds everything');
            $this->step($project, 'scale', ['factor' => 2.0]);
            self::assertSame('done', $this->state($project)['steps'][2]['state']);
        } finally {
            DB::table('projects')->delete();
            DB::table('users')->delete();
            DB::table('blobs')->delete();
            DB::beginTransaction();
        }
    }

    #[Test]
    public function a_stop_is_heard_inside_a_kernel_that_tells_nothing(): void
    {
        $project = $this->withOpenBall();
        $step = $project->steps()->create(['operation' => 'fuse', 'parameters' => [], 'stop_asked' => true]);
        $rounds = 0;
        $end = microtime(true) + 60.0;
        try {
            (new JobProgress($step))->watch(function () use (&$rounds, $end): void {
                while (microtime(true) < $end) {
                    $rounds++;
                }
            });
            self::fail('the work went on to its end');
        } catch (OperationCancelled) {
            self::assertGreaterThan(0, $rounds);
        }
        self::assertSame(0, pcntl_alarm(0), 'no alarm is left behind');
    }

    #[Test]
    public function a_look_up_that_falls_due_in_the_middle_of_another_does_not_disturb_it(): void
    {
        $step = $this->withOpenBall()->steps()->create(['operation' => 'fuse', 'parameters' => []]);
        $asked = 0;
        $works = true;
        DB::listen(function () use (&$asked, &$works): void {
            if ($works) {
                $asked++;
                self::assertLessThan(20, $asked, 'each look begins another');
                // As when a second is over just now.
                posix_kill((int) getmypid(), SIGALRM);
            }
        });
        $progress = new JobProgress($step);
        $progress->watch(function () use ($progress, &$works): void {
            $progress->advance('grid', 0.5);
            $works = false;
        });
        self::assertSame(2, $asked, 'the progress is written, and whether to stop is asked, once');
        self::assertSame(0.5, (float) $step->refresh()->progress);
    }

    #[Test]
    public function geometry_that_no_project_uses_is_swept_and_all_else_stays(): void
    {
        $kept = $this->withOpenBall();
        $this->step($kept, 'fill-holes');
        $this->postJson("/api/projects/$kept->id/undo")->assertOk();
        $loose = app(BlobStore::class)->put('of a step that failed');
        $before = DB::table('blobs')->count();
        $this->artisan('emberstone:sweep', ['--hours' => 1]);
        self::assertSame($before, DB::table('blobs')->count(), 'young blobs stay');
        DB::table('blobs')->update(['created_at' => now()->subDays(2)]);
        $this->artisan('emberstone:sweep');
        self::assertSame($before - 1, DB::table('blobs')->count());
        self::assertFalse(DB::table('blobs')->where('hash', $loose)->exists());
        $this->postJson("/api/projects/$kept->id/redo")->assertOk();
        self::assertTrue($this->state($kept->refresh())['snapshot']['bodies'][0]['figures']['closed'], 'what was undone is still there');
    }

    #[Test]
    public function rows_of_the_tray_are_locked_and_ordered_for_everyone(): void
    {
        $project = $this->withOpenBall();
        $upload = $this->upload($project, 'second.stl', $this->stl(MeshBuilder::icosphere(1, 5.0)));
        $this->step($project, 'import', ['uploads' => [$upload], 'unit' => 'mm']);
        $ids = array_column($this->state($project->refresh())['snapshot']['bodies'], 'id');
        $this->patchJson("/api/projects/$project->id", ['tray_order' => array_reverse($ids), 'locked' => [$ids[0]]])->assertOk();
        $state = $this->state($project->refresh());
        self::assertSame(array_reverse($ids), array_column($state['snapshot']['bodies'], 'id'));
        self::assertSame([false, true], array_column($state['snapshot']['bodies'], 'locked'));
        self::assertSame([1, 0], array_column($state['snapshot']['bodies'], 'nth'), 'colours stay with what they were given to');
        self::assertSame($ids[1], $state['readyBody'], 'the order of the tray does not change what is delivered');
        $this->patchJson("/api/projects/$project->id", ['locked' => ['all of them']])->assertStatus(422);
    }

    #[Test]
    public function a_downloaded_body_is_the_one_on_the_ready_card(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'fill-holes');
        $state = $this->state($project);
        $bytes = $this->get("/api/projects/$project->id/bodies/{$state['readyBody']}/download?format=ply")->assertOk()->streamedContent();
        $file = tempnam(sys_get_temp_dir(), 'ball').'.ply';
        file_put_contents($file, $bytes);
        self::assertSame($state['snapshot']['bodies'][0]['points'], intdiv(count(Formats::read($file)->geometry->positions), 3));
        unlink($file);
    }

    #[Test]
    public function a_step_works_on_the_body_it_is_told_and_what_it_made_keeps_its_id_when_it_runs_again(): void
    {
        $project = $this->withOpenBall();
        $base = "/api/projects/$project->id";
        $body = fn (string $name): array => array_column($this->state($project->refresh())['snapshot']['bodies'], null, 'name')[$name];
        $ball = $body('ball');
        $this->step($project, 'copy', ['on' => [$ball['id']]]);
        $copy = $body('ball, copy');
        $this->patchJson($base, ['labels' => [$copy['id'] => 'Lid']])->assertOk();
        $decimated = $this->postJson("$base/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5], 'on' => [$copy['id']]])->assertAccepted()->json('id');
        self::assertSame([$ball['faces'], $ball['blob']], [$body('ball')['faces'], $body('ball')['blob']]);
        $half = $body('Lid')['faces'];
        self::assertEqualsWithDelta(0.5 * $ball['faces'], $half, 2);
        $state = $this->state($project->refresh());
        self::assertSame([$copy['id']], array_column($state['steps'], null, 'id')[$decimated]['on']);
        self::assertSame([$ball['id'], $copy['id']], array_keys($state['readyCards']));

        // The copy is made anew: same id, so its name and the step that was meant for it find it.
        $copied = $state['steps'][1]['id'];
        $this->postJson("$base/steps/$copied/rerun", ['parameters' => $state['steps'][1]['parameters']])->assertAccepted();
        $state = $this->state($project->refresh());
        self::assertSame([$half, $copy['id']], [$body('Lid')['faces'], $body('Lid')['id']]);
        self::assertSame($ball['faces'], $body('ball')['faces']);
        self::assertSame([$copy['id']], array_values(array_filter($state['steps'], fn (array $step) => $step['state'] === 'done' && $step['operation'] === 'decimate'))[0]['on']);

        // Run again with another choice; then for something that is not there any more.
        $again = array_values(array_filter($state['steps'], fn (array $step) => $step['state'] === 'done' && $step['operation'] === 'decimate'))[0]['id'];
        $this->postJson("$base/steps/$again/rerun", ['parameters' => ['ratio' => 0.5], 'on' => [$ball['id']]])->assertAccepted();
        self::assertSame([$ball['faces'], $half], [$body('Lid')['faces'], $body('ball')['faces']]);
        $gone = $this->postJson("$base/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5], 'on' => ['5a0e5c0e-9a43-4c52-9d5b-2f6a3d1c7e01']])->assertAccepted()->json('id');
        self::assertStringContainsString('not here any more', Step::query()->findOrFail($gone)->message ?? '');
        $this->postJson("$base/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5], 'on' => []])->assertStatus(422);
    }

    #[Test]
    public function older_ledgers_that_said_only_and_items_run_on(): void
    {
        $project = $this->withOpenBall();
        $base = "/api/projects/$project->id";
        $ball = $this->state($project)['snapshot']['bodies'][0];
        $this->step($project, 'copy', ['items' => [$ball['id']]]);
        $this->step($project, 'add-datum', ['name' => 'corner', 'kind' => 'point', 'typed' => ['origin' => [3, 0, 0]]]);
        $this->step($project, 'set-frame', ['first' => ['datum' => 'corner', 'to' => 'origin'], 'only' => [$ball['id']]]);
        $state = $this->state($project->refresh());
        self::assertSame(['done', 'done', 'done', 'done'], array_column($state['steps'], 'state'));
        self::assertSame([[$ball['id']], null, [$ball['id']]], [$state['steps'][1]['parameters']['on'], $state['steps'][1]['on'], $state['steps'][3]['on']]);
        self::assertEqualsWithDelta([-3.0, 0.0], array_map(fn (array $body) => $body['transform'][3], $state['snapshot']['bodies']), 1e-9);
        self::assertEqualsWithDelta(3.0, $state['snapshot']['datums'][0]['origin'][0], 1e-9, 'the datum belongs to no body that moved');
        // As an older version wrote it down.
        Step::query()->toBase()->where('operation', 'copy')->update(['parameters' => json_encode(['items' => [$ball['id']]])]);
        $this->postJson("$base/steps/{$state['steps'][1]['id']}/rerun", ['parameters' => ['items' => [$ball['id']]]])->assertAccepted();
        self::assertCount(2, $this->state($project->refresh())['snapshot']['bodies']);
    }

    #[Test]
    public function the_facts_of_a_body_and_its_states_before_and_after_a_step_are_told(): void
    {
        $project = $this->withOpenBall();
        $base = "/api/projects/$project->id";
        $this->step($project, 'fill-holes', []);
        $this->step($project, 'scale', ['factor' => 2.0]);
        $state = $this->state($project->refresh());
        $body = $state['snapshot']['bodies'][0];
        $facts = $this->getJson("$base/items/{$body['id']}/facts")->assertOk()->json();
        self::assertEqualsWithDelta([40.0, 40.0, 40.0], $facts['sizeMm'], 0.5);
        self::assertEqualsWithDelta(4.0 / 3.0 * M_PI * 20.0 ** 3, $facts['volumeMm3'], 0.03 * $facts['volumeMm3']);
        $steps = array_column($state['steps'], 'id', 'operation');
        self::assertSame([$steps['import'], [$steps['fill-holes'], $steps['scale']]], [$facts['madeBy'], $facts['changedBy']]);
        foreach ($facts['fileBytes'] as $format => $bytes) {
            $file = strlen($this->get("$base/bodies/{$body['id']}/download?format=$format")->assertOk()->streamedContent());
            self::assertEqualsWithDelta($file, $bytes, 0.05 * $file, $format);
        }
        $this->getJson("$base/items/5a0e5c0e-9a43-4c52-9d5b-2f6a3d1c7e01/facts")->assertNotFound();

        $states = $this->getJson("$base/steps/{$steps['fill-holes']}/states")->assertOk()->json();
        self::assertSame([1, 0], [$states['before']['bodies'][0]['figures']['holeCount'], $states['after']['bodies'][0]['figures']['holeCount']]);
        $this->get("$base/blobs/{$states['before']['bodies'][0]['blob']}")->assertOk();
    }

    #[Test]
    public function a_copy_has_the_figures_of_what_it_is_a_copy_of(): void
    {
        $project = $this->withOpenBall();
        $ball = $this->state($project)['snapshot']['bodies'][0];
        $this->step($project, 'copy', ['on' => [$ball['id']]]);
        $bodies = $this->state($project->refresh())['snapshot']['bodies'];
        self::assertSame($bodies[0]['figures'], $bodies[1]['figures']);
        self::assertSame($bodies[0]['blob'], $bodies[1]['blob']);
    }
}
