<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Capture;
use App\Models\Project;
use App\Models\Step;
use App\Services\BlobStore;
use App\Services\DiskSpace;
use App\Services\Ledger;
use App\Services\LostConnection;
use App\Services\StepQueue;
use App\Services\StepSweep;
use App\Services\ValidText;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Database\QueryException;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Sleep;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Blobs that were cut off, workers that took a job with them, files whose bytes are no text. */
final class NothingLostTest extends TestCase
{
    private function blobs(): BlobStore
    {
        return $this->app->make(BlobStore::class);
    }

    /** Bytes of a bit more than two chunks. */
    private function bytes(): string
    {
        return str_repeat(random_bytes(1 << 16), 33);
    }

    #[Test]
    public function a_blob_of_which_chunks_are_missing_is_completed_when_its_bytes_come_again(): void
    {
        $bytes = $this->bytes();
        $hash = hash('sha256', $bytes);
        // What a worker killed in the middle left behind before row and chunks were one transaction.
        DB::table('blobs')->insert(['hash' => $hash, 'size' => strlen($bytes)]);
        DB::insert('insert into blob_chunks (hash, position, bytes) values (?, 0, decode(?, \'hex\'))', [$hash, bin2hex(substr($bytes, 0, 1 << 20))]);
        self::assertFalse($this->blobs()->isIntact($hash));
        self::assertSame($hash, $this->blobs()->put($bytes));
        self::assertTrue($this->blobs()->isIntact($hash));
    }

    #[Test]
    public function verifying_mends_from_the_cache_and_names_the_step_of_what_cannot_be_mended(): void
    {
        $project = $this->withOpenBall();
        $hash = $project->snapshot()['bodies'][0]['blob'];
        $damage = fn () => DB::update('update blob_chunks set bytes = decode(\'00\', \'hex\') where hash = ?', [$hash]);
        $damage();
        self::assertSame(0, $this->app->make(Kernel::class)->call('emberstone:verify'));
        self::assertTrue($this->blobs()->isIntact($hash));

        $damage();
        unlink($this->blobs()->path($hash));
        $kernel = $this->app->make(Kernel::class);
        self::assertSame(1, $kernel->call('emberstone:verify'));
        self::assertMatchesRegularExpression("/$hash is damaged.*step $project->head_step_id of \"Bush\" \\(import\\)/s", $kernel->output());
    }

    #[Test]
    public function verifying_computes_a_damaged_blob_anew_from_the_step_that_made_it_and_takes_an_upload_that_comes_again(): void
    {
        $project = $this->withOpenBall();
        $imported = $project->snapshot()['bodies'][0]['blob'];
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => []])->assertAccepted();
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5]])->assertAccepted();
        $made = DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->where('operation', '!=', 'import')->where('hash', '!=', $imported)->distinct()->pluck('hash');
        self::assertGreaterThanOrEqual(2, $made->count());
        foreach ($made as $hash) {
            DB::update('update blob_chunks set bytes = decode(\'00\', \'hex\') where hash = ?', [$hash]);
            unlink($this->blobs()->path($hash));
        }
        self::assertSame(0, $this->app->make(Kernel::class)->call('emberstone:verify'), $this->app->make(Kernel::class)->output());
        foreach ($made as $hash) {
            self::assertTrue($this->blobs()->isIntact($hash));
        }
        // The ledger is as it was.
        self::assertSame(['done', 'done', 'done'], array_column($this->state($project->refresh())['steps'], 'state'));

        DB::update('update blob_chunks set bytes = decode(\'00\', \'hex\') where hash = ?', [$imported]);
        unlink($this->blobs()->path($imported));
        self::assertSame(1, $this->app->make(Kernel::class)->call('emberstone:verify'));
        $upload = $this->upload($project, 'ball.stl', $this->stl(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0)));
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        self::assertTrue($this->blobs()->isIntact($imported));
    }

    #[Test]
    public function a_long_line_of_one_project_lets_others_pass_and_short_steps_go_first(): void
    {
        $long = $this->withOpenBall();
        $other = $this->project($long->owner);
        config(['queue.default' => 'database']);
        $ask = fn (Project $project, string $operation, array $parameters): int => $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted()->json('id');
        $line = array_map(fn (float $factor) => $ask($long, 'scale', ['factor' => $factor]), [2.0, 3.0, 4.0, 5.0]);
        $upload = $this->upload($other, 'ball.stl', $this->stl(MeshBuilder::icosphere(2, 5.0)));
        $single = $ask($other, 'import', ['uploads' => [$upload], 'unit' => 'mm']);
        $ended = [];
        while (DB::table('jobs')->exists()) {
            $before = Step::query()->where('state', 'done')->pluck('id')->all();
            $this->app->make(Kernel::class)->call('queue:work', ['--once' => true, '--queue' => 'short,default', '--sleep' => 0]);
            array_push($ended, ...array_diff(Step::query()->where('state', 'done')->pluck('id')->all(), $before));
        }
        self::assertSame([$line[0], $single, $line[1], $line[2], $line[3]], $ended);

        $queue = $this->app->make(StepQueue::class);
        $step = fn (string $operation) => new Step(['project_id' => $long->id, 'operation' => $operation, 'parameters' => []]);
        self::assertSame(StepQueue::SHORT, $queue->queueFor($step('decimate')));
        $head = Step::query()->findOrFail($long->refresh()->head_step_id);
        $snapshot = $head->snapshot;
        $snapshot['bodies'][0]['faces'] = 1_000_000;
        $head->update(['snapshot' => $snapshot]);
        self::assertSame(StepQueue::LONG, $queue->queueFor($step('decimate')));
        self::assertSame(StepQueue::SHORT, $queue->queueFor($step('set-frame')), 'it moves numbers only');
        self::assertSame(StepQueue::LONG, $queue->queueFor($step('capture')));
    }

    #[Test]
    public function a_line_whose_step_is_stopped_or_left_behind_goes_on(): void
    {
        $project = $this->withOpenBall();
        config(['queue.default' => 'database']);
        $ask = fn (float $factor): int => $this->postJson("/api/projects/$project->id/steps", ['operation' => 'scale', 'parameters' => ['factor' => $factor]])->assertAccepted()->json('id');
        [$first, $second, $third] = [$ask(2.0), $ask(3.0), $ask(4.0)];
        $sent = fn (int $step): bool => StepQueue::jobsOf($step)->exists();
        self::assertSame([true, false, false], [$sent($first), $sent($second), $sent($third)]);
        $this->postJson("/api/projects/$project->id/steps/$first/stop")->assertAccepted();
        self::assertSame([true, false], [$sent($second), $sent($third)]);
        // Its worker was killed; nobody looks at the project, but the clock does.
        Step::query()->toBase()->where('id', $second)->update(['state' => 'running', 'beat_at' => now()->subMinute()]);
        Step::query()->toBase()->where('id', $third)->update(['updated_at' => now()->subMinute()]);
        $this->app->make(StepSweep::class)->everywhere();
        self::assertSame('failed', Step::query()->findOrFail($second)->state);
        self::assertTrue($sent($third));
    }

    #[Test]
    public function a_write_is_done_again_while_the_database_is_away_and_nothing_else_is(): void
    {
        $lost = new QueryException('pgsql', 'insert', [], new \PDOException('server closed the connection unexpectedly'));
        $wrong = new QueryException('pgsql', 'insert', [], new \PDOException('relation does not exist'));
        Sleep::fake();
        $tries = 0;
        self::assertSame('written', LostConnection::outlasted(function () use (&$tries, $lost): string {
            return ++$tries < 4 ? throw $lost : 'written';
        }));
        self::assertSame(4, $tries);
        $this->expectExceptionObject($wrong);
        LostConnection::outlasted(function () use (&$tries, $wrong): never {
            self::assertSame(5, ++$tries, 'tried once');
            throw $wrong;
        });
    }

    #[Test]
    public function a_capture_that_nobody_feeds_or_steers_ends_and_is_kept_for_a_week(): void
    {
        $project = $this->withOpenBall();
        $begin = fn (): Capture => Capture::query()->create(['project_id' => $project->id, 'user_id' => $project->owner_id, 'token_hash' => str_repeat('0', 64), 'state' => 'paused', 'active_at' => now()]);
        [$paused, $fresh, $old] = [$begin(), $begin(), $begin()];
        $paused->update(['active_at' => now()->subMinutes(31)]);
        $old->update(['state' => 'failed', 'active_at' => now()->subDays(8)]);
        Capture::expire();
        self::assertSame(['failed', 'paused'], [$paused->refresh()->state, $fresh->refresh()->state]);
        self::assertStringContainsString('kept for 7 days', (string) $paused->message);
        self::assertNull($old->fresh());
        // A word from the window keeps one going.
        $fresh->update(['active_at' => now()->subMinutes(31)]);
        $this->postJson("/api/projects/$project->id/captures/$fresh->id/command", ['do' => 'pause'])->assertOk();
        Capture::expire();
        self::assertSame('paused', $fresh->refresh()->state);
    }

    #[Test]
    public function the_sweep_takes_what_no_step_holds_and_nothing_else(): void
    {
        $project = $this->withOpenBall();
        $unused = $this->blobs()->put('nobody holds this');
        DB::table('blobs')->update(['created_at' => now()->subDays(2)]);
        $this->app->make(Kernel::class)->call('emberstone:sweep');
        self::assertFalse(DB::table('blobs')->where('hash', $unused)->exists());
        self::assertTrue($this->blobs()->isIntact($project->snapshot()['bodies'][0]['blob']));

        // What is about to be named by a running step is young again.
        $again = $this->blobs()->put('held by a step soon');
        DB::table('blobs')->update(['created_at' => now()->subDays(2)]);
        $this->blobs()->put('held by a step soon');
        $this->app->make(Kernel::class)->call('emberstone:sweep');
        self::assertTrue(DB::table('blobs')->where('hash', $again)->exists());
    }

    #[Test]
    public function a_waiting_step_whose_job_went_with_its_worker_gets_a_new_one_within_seconds(): void
    {
        $project = $this->withOpenBall();
        config(['queue.default' => 'database']);
        $id = $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => []])->assertAccepted()->json('id');
        $jobs = fn () => StepQueue::jobsOf($id);
        self::assertSame(1, $jobs()->count());
        // A worker took the job a minute ago and was killed.
        $jobs()->update(['reserved_at' => now()->subMinute()->getTimestamp()]);
        $this->state($project);
        self::assertNotNull($jobs()->sole()->reserved_at, 'not yet: it may be on its way');
        Step::query()->toBase()->where('id', $id)->update(['updated_at' => now()->subSeconds(20)]);
        $this->state($project);
        self::assertNull($jobs()->sole()->reserved_at, 'one job, and a worker may take it');
        // The job that waits is enough.
        Step::query()->toBase()->where('id', $id)->update(['updated_at' => now()->subSeconds(20)]);
        $this->state($project);
        self::assertSame(1, $jobs()->count());

        // Stopped while it waits, it has ended: undo need not wait for a worker.
        $this->postJson("/api/projects/$project->id/steps/$id/stop")->assertAccepted();
        self::assertSame('stopped', Step::query()->findOrFail($id)->state);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
    }

    #[Test]
    public function a_step_asked_for_twice_with_one_key_is_one_step(): void
    {
        $project = $this->withOpenBall();
        $ask = fn (string $key) => $this->postJson("/api/projects/$project->id/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5], 'key' => $key])->assertAccepted()->json('id');
        $key = '5a0e5c0e-9a43-4c52-9d5b-2f6a3d1c7e01';
        self::assertSame($ask($key), $ask($key));
        self::assertNotSame($ask($key), $ask('5a0e5c0e-9a43-4c52-9d5b-2f6a3d1c7e02'));
        self::assertCount(3, $this->state($project->refresh())['steps']);
    }

    #[Test]
    public function deleting_a_project_frees_its_uploads_and_its_geometry_at_once_and_nothing_of_others(): void
    {
        $project = $this->withOpenBall();
        $shared = $project->snapshot()['bodies'][0]['blob'];
        $other = $this->project($project->owner);
        $upload = $this->upload($other, 'ball.stl', $this->stl(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0)));
        $this->postJson("/api/projects/$other->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        $this->postJson("/api/projects/$other->id/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5]])->assertAccepted();
        $own = $other->refresh()->snapshot()['bodies'][0]['blob'];
        $left = $this->upload($other, 'never-imported.stl', $this->stl(MeshBuilder::icosphere(1)));
        $path = \App\Models\Upload::query()->findOrFail($left)->path();
        self::assertFileExists($path);

        $this->deleteJson("/api/projects/$other->id")->assertNoContent();
        self::assertFileDoesNotExist($path);
        self::assertFalse(DB::table('blobs')->where('hash', $own)->exists());
        self::assertTrue($this->blobs()->isIntact($shared));
    }

    #[Test]
    public function uploads_that_nobody_imported_and_folders_of_killed_imports_expire(): void
    {
        $project = $this->withOpenBall();
        [$old, $young] = array_map(fn (string $name) => \App\Models\Upload::query()->findOrFail($this->upload($project, $name, 'solid x')), ['old.stl', 'young.stl']);
        $old->newQuery()->toBase()->where('id', $old->id)->update(['updated_at' => now()->subDays(8)]);
        $folder = storage_path('framework/import-left-behind');
        mkdir($folder, 0777, true);
        touch("$folder/blob");
        touch($folder, time() - 2 * 86400);
        $stray = dirname($old->path()).'/of-a-project-deleted-before';
        touch($stray, time() - 8 * 86400);
        $this->app->make(Kernel::class)->call('emberstone:sweep');
        self::assertDirectoryDoesNotExist($folder);
        self::assertFileDoesNotExist($stray);
        self::assertFileDoesNotExist($old->path());
        self::assertSame([$young->id], \App\Models\Upload::query()->where('project_id', $project->id)->pluck('id')->all());
    }

    #[Test]
    public function on_a_full_disk_new_files_are_refused_in_words_and_all_else_works(): void
    {
        $project = $this->withOpenBall();
        self::assertNull($this->state($project)['diskUsed']);
        $this->app->instance(DiskSpace::class, new DiskSpace(fn () => [8e9, 100e9]));
        self::assertSame(0.92, $this->state($project)['diskUsed']);
        $this->upload($project, 'fits.stl', 'solid fits');

        $this->app->instance(DiskSpace::class, new DiskSpace(fn () => [1e9, 100e9]));
        $this->postJson("/api/projects/$project->id/uploads", [], ['Upload-Length' => '10', 'Upload-Metadata' => 'filename '.base64_encode('more.stl')])->assertStatus(507)->assertSee('full to 99 %');
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => []])->assertAccepted();
        self::assertSame('done', $this->state($project->refresh())['steps'][1]['state']);

        self::assertTrue((new DiskSpace)->isReasonOf(new \RuntimeException('fwrite(): Write of 8192 bytes failed with errno=28 No space left on device')));
        self::assertFalse((new DiskSpace)->isReasonOf(new \RuntimeException('something else')));
        $kernel = $this->app->make(Kernel::class);
        $kernel->call('emberstone:space');
        self::assertMatchesRegularExpression('/99 % of the disk.*MB  Geometry in the database.*MB  Uploads on their way.*"Bush" of ada/s', $kernel->output());
    }

    #[Test]
    public function bytes_that_are_no_text_are_written_out_and_keep_no_good_file_out(): void
    {
        self::assertSame(['a\xFFb' => ['Grün', 'x\x00y', '\xC3(', 3]], ValidText::of(["a\xFFb" => ['Grün', "x\0y", "\xC3(", 3]]));
        $project = $this->withOpenBall();
        $bad = $this->upload($project, 'odd.ply', "ply\nformat ascii 1.0\nelement vertex 1\nproperty fl\xFFoat x\nend_header\n1\n");
        $good = $this->upload($project, 'good.stl', $this->stl(MeshBuilder::icosphere(2, 5.0)));
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$bad, $good], 'unit' => 'mm']])->assertAccepted();
        $state = $this->state($project->refresh());
        self::assertSame('done', $state['steps'][1]['state'], (string) $state['steps'][1]['message']);
        self::assertStringContainsString('odd.ply', implode(' ', $state['steps'][1]['figures']['notes']));
        self::assertCount(2, $state['snapshot']['bodies']);
    }

    #[Test]
    public function a_request_while_the_database_is_away_or_the_disk_is_full_is_told_so_and_not_that_the_server_erred(): void
    {
        $project = $this->withOpenBall();
        $fail = function (string $said): \Illuminate\Testing\TestResponse {
            $this->app->bind(Ledger::class, fn () => throw new QueryException('pgsql', 'select', [], new \PDOException($said)));
            $this->app->forgetInstance(Ledger::class);

            return $this->postJson('/api/projects/'.Step::query()->firstOrFail()->project_id.'/undo');
        };
        $fail('SQLSTATE[08006] [7] connection to server at "127.0.0.1", port 5432 failed: Connection refused')->assertStatus(503)->assertSee('try again in a minute');
        $fail('SQLSTATE[57P03] [7] FATAL:  the database system is starting up')->assertStatus(503);
        $fail('SQLSTATE[53100]: Disk full: 7 ERROR:  could not extend file "base/1/2": No space left on device')->assertStatus(507)->assertSee('disk of this machine is full');
        $fail('SQLSTATE[42P01]: Undefined table')->assertStatus(500);
    }
}
