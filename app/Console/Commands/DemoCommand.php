<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Jobs\RunStep;
use App\Models\Project;
use App\Models\Step;
use App\Models\Upload;
use App\Models\User;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Illuminate\Console\Command;

/** The demo world: a user, a project with eight passes waiting, one whose scale is to be found, and the first one finished. Made by the simulator, once. */
final class DemoCommand extends Command
{
    protected $signature = 'emberstone:demo {--waiting-only : leave out the finished project} {--password=cider-press-1902 : of the demo user, when it is made}';

    protected $description = 'Makes the demo user and the demo projects, unless they are there';

    public function handle(): int
    {
        ini_set('memory_limit', '-1');
        $user = User::query()->firstOrCreate(['email' => 'ines@orchard-press.example'], ['name' => 'Ines Brandt', 'password' => (string) $this->input->getOption('password'), 'is_keeper' => true]);
        if ($user->projects()->exists()) {
            return self::SUCCESS;
        }
        $waiting = $this->withPasses($user, 'Bearing pedestal');
        $this->info("\"{$waiting->name}\" is ready: eight passes waiting.");
        $barred = $this->withPasses($user, 'Pedestal beside a gauge bar', 'pedestal-with-bar', 'handheld-off-scale');
        $this->info("\"{$barred->name}\" is ready: four passes of a scanner that measures too long.");
        if (! $this->option('waiting-only')) {
            $finished = $this->copyOf($waiting, 'Bearing pedestal, finished');
            $this->finish($user, $finished);
            $this->info("\"{$finished->name}\" is ready.");
        }

        return self::SUCCESS;
    }

    private function withPasses(User $user, string $name, string $part = 'pedestal', string $rig = 'handheld'): Project
    {
        $project = $user->projects()->create(['name' => $name, 'brief' => (new Brief)->toArray()]);
        $rig = Rigs::rig($rig);
        $part = Rigs::part($part);
        $uploads = $tasks = [];
        for ($k = 0; $k < $rig->passes(); $k++) {
            $upload = new Upload(['project_id' => $project->id, 'user_id' => $user->id, 'name' => sprintf('Pass %d%s.ply', $k + 1, $k < 4 ? '' : ' turned over'), 'size' => 0, 'received' => 0]);
            $upload->id = $upload->newUniqueId();
            $tasks[] = function () use ($upload, $rig, $part, $k): string {
                $path = $upload->path().'.ply';
                Formats::write($path, $rig->capture($part, $k, 1902)['cloud']);
                rename($path, $upload->path());

                return '';
            };
            $uploads[] = $upload;
        }
        Fork::map($tasks, Cores::count());
        foreach ($uploads as $upload) {
            $upload->size = $upload->received = (int) filesize($upload->path());
            $upload->save();
        }
        $this->step($project, $user, 'import', ['uploads' => array_map(fn (Upload $upload) => $upload->id, $uploads), 'unit' => 'mm']);

        return $project;
    }

    /** A second project with the same passes: its import step holds the same blobs. */
    private function copyOf(Project $project, string $name): Project
    {
        $copy = $project->owner->projects()->create(['name' => $name, 'brief' => $project->brief]);
        $import = $project->head;
        assert($import !== null);
        $step = $copy->steps()->create($import->only(['user_id', 'operation', 'parameters', 'state', 'progress', 'snapshot', 'figures', 'seconds']));
        $copy->update(['head_step_id' => $step->id]);

        return $copy;
    }

    private function finish(User $user, Project $project): void
    {
        foreach ([
            ['drop-base', []], ['register', ['maxDistance' => 6.0]], ['remove-outliers', []], ['fuse', ['voxel' => 0.8, 'name' => 'Pedestal']], ['keep-pieces', ['largest' => 1]], ['fill-holes', []],
            ['decimate', ['faces' => 50000]], ['repair', []],
            ['add-datum', ['name' => 'Base plane', 'kind' => 'plane', 'seed' => [30.0, 10.0, 0.0]]],
            ['add-datum', ['name' => 'Bore axis', 'kind' => 'cylinder', 'seed' => [0.0, 2.0, 37.0], 'angle' => 20.0]],
            ['add-datum', ['name' => 'End face', 'kind' => 'plane', 'seed' => [0.0, -30.0, 73.0]]],
            ['set-frame', ['first' => 'Base plane', 'second' => ['datum' => 'Bore axis', 'to' => 'Y'], 'third' => 'End face']],
            ['confirm-scale', []],
        ] as [$operation, $parameters]) {
            $this->step($project, $user, $operation, $parameters);
        }
    }

    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, User $user, string $operation, array $parameters): void
    {
        $step = $project->steps()->create(['user_id' => $user->id, 'operation' => $operation, 'parameters' => $parameters]);
        RunStep::dispatchSync($step->id);
        $step = Step::query()->findOrFail($step->id);
        $project->refresh();
        $this->line(sprintf('  %-16s %s %s', $operation, $step->figures['headline'] ?? '', $step->message ?? ''));
        if ($step->state !== 'done') {
            $this->error("The demo's $operation step is {$step->state}.");
        }
    }
}
