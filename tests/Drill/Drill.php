<?php

declare(strict_types=1);

namespace Tests\Drill;

use App\Models\Step;
use App\Services\BlobStore;
use App\Services\Ledger;
use App\Services\LostConnection;
use App\Services\StepWork;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use RuntimeException;

/** Rounds of work and trouble, drawn by a seed. */
final class Drill
{
    /** Seconds within which every step of a project has ended, whatever was done to it: a restart of the database, a worker found dead after 8 s, and the work itself. */
    private const SETTLED_S = 120.0;

    /** Formats of the damaged files. */
    private const FORMATS = ['stl', 'obj', 'ply', 'off', '3mf', 'glb', 'gltf', 'xyz', 'csv', 'txt', 'asc', 'pts', 'ptx', 'e57', 'zip', 'ply.gz'];

    /** Damaged files of a round: with all rounds some 500 in twenty minutes. */
    private const DAMAGED = 32;

    private readonly Gen $gen;

    /** @var list<Person> two people on the same projects */
    private readonly array $people;

    /** @var list<string> what must not be */
    private array $wrong = [];

    /** @var array<string, int> how often each thing was done */
    private array $done = [];

    /** @var list<string> */
    private array $projects = [];

    private readonly string $folder;

    public function __construct(string $address, private readonly int $seed, private readonly string $var, private readonly bool $mayFill)
    {
        $this->gen = new Gen($seed);
        $this->people = [new Person($address, 'tess@orchard-press.example', 'drill-of-tess'), new Person($address, 'otto@orchard-press.example', 'drill-of-otto')];
        $this->folder = sys_get_temp_dir().'/emberstone-drill-files-'.getmypid();
        @mkdir($this->folder);
    }

    public function run(float $seconds): bool
    {
        $end = microtime(true) + $seconds;
        $rounds = [$this->chainUnderTrouble(...), $this->damagedFiles(...), $this->doubledRequests(...), $this->twoAtOnce(...), $this->deletedProject(...), ...($this->mayFill ? [$this->fullDisk(...)] : [])];
        $this->mayFill || print "· the disk is not filled: no small one could be mounted\n";
        // Each kind once, then by chance.
        for ($k = 0; $k < count($rounds) || microtime(true) < $end; $k++) {
            try {
                ($rounds[$k] ?? $rounds[$this->gen->int(0, count($rounds) - 1)])();
            } catch (RuntimeException $problem) {
                $this->wrong[] = $problem->getMessage();
            }
        }
        $this->checkAll();
        array_map(unlink(...), glob("$this->folder/*") ?: []);
        @rmdir($this->folder);
        foreach ($this->done as $what => $count) {
            echo "· $count $what\n";
        }
        foreach ($this->wrong as $wrong) {
            echo "✗ $wrong\n";
        }
        echo $this->wrong === [] ? "the drill is passed (seed $this->seed)\n" : sprintf("the drill found %d faults (seed %d)\n", count($this->wrong), $this->seed);

        return $this->wrong === [];
    }

    private function did(string $what, int $times = 1): void
    {
        $this->done[$what] = ($this->done[$what] ?? 0) + $times;
    }

    /**
     * A step of the ledger asked for; null when it was refused, in words.
     *
     * @param  array<string, mixed>  $parameters
     */
    private function step(string $project, string $operation, array $parameters = [], int $who = 0): ?int
    {
        for ($k = 0; $k < 20; $k++) {
            [$status, $answer] = $this->people[$who]->ask('POST', "/projects/$project/steps", ['operation' => $operation, 'parameters' => $parameters, 'key' => (string) Str::uuid()]);
            if ($status === 202) {
                return $answer['id'];
            }
            if ($status !== 503) {
                return null;
            }
            usleep(500_000);
        }

        return null;
    }

    private function newProject(string $name): string
    {
        for ($k = 0; $k < 60; $k++) {
            [$status, $answer] = $this->people[0]->ask('POST', '/projects', ['name' => $name]);
            if ($status === 201) {
                $this->people[0]->ask('POST', "/projects/{$answer['id']}/members", ['email' => 'otto@orchard-press.example']);

                return $this->projects[] = $answer['id'];
            }
            usleep(500_000);
        }
        throw new RuntimeException('No project could be made for half a minute.');
    }

    /**
     * Waits until every step of a project has ended; the window asks just so.
     *
     * @return array<string, mixed> the state of the project
     */
    private function settled(string $project): array
    {
        $since = microtime(true);
        do {
            [$status, $state] = $this->people[$this->gen->int(0, 1)]->ask('GET', "/projects/$project");
            $alive = $status === 200 ? array_filter($state['steps'], fn (array $step) => in_array($step['state'], ['waiting', 'running'], true)) : [1];
            if ($status === 200 && $alive === []) {
                foreach ($state['steps'] as $step) {
                    if (in_array($step['state'], ['failed', 'stopped'], true) && trim((string) $step['message']) === '') {
                        $this->wrong[] = "Step {$step['id']} ended without a word.";
                    }
                    if (str_contains((string) $step['message'], 'Something went wrong')) {
                        $this->wrong[] = "Step {$step['id']} ({$step['operation']}): {$step['message']}";
                    }
                }

                return $state;
            }
            usleep(150_000);
        } while (microtime(true) - $since < self::SETTLED_S);
        throw new RuntimeException("Steps of project $project have not settled in ".self::SETTLED_S.' s: '.json_encode(array_map(fn ($step) => is_array($step) ? [$step['id'], $step['operation'], $step['state']] : $step, array_values($alive))));
    }

    private function openBall(): TriangleMesh
    {
        return MeshBuilder::without(MeshBuilder::icosphere($this->gen->int(3, 5), 10.0), 8.0);
    }

    private function bytesOf(TriangleMesh|PointCloud $geometry, string $ending): string
    {
        Formats::write($path = "$this->folder/part.$ending", $geometry);

        return (string) file_get_contents($path);
    }

    /** A project with a ball that is open on top; the import itself may be what trouble comes to. */
    private function withBall(string $name): string
    {
        $project = $this->newProject($name);
        $upload = $this->people[0]->upload($project, 'ball.stl', $this->bytesOf($this->openBall(), 'stl'));
        $upload === null || $this->step($project, 'import', ['uploads' => [$upload], 'unit' => 'mm']);

        return $project;
    }

    private function trouble(): void
    {
        $what = ['kill-one', 'kill-one', 'kill-workers', 'restart-database'][$this->gen->int(0, 3)];
        exec("EMBERSTONE_VAR=$this->var bash ".escapeshellarg(dirname(__DIR__).'/Browser/fault.sh')." $what 2>&1", $said, $status);
        if ($status !== 0) {
            throw new RuntimeException("$what could not be done: ".implode(' ', $said));
        }
        $this->did("times $what");
    }

    /** A chain of steps; something is killed in the middle; what was interrupted is run again until it is done. */
    private function chainUnderTrouble(): void
    {
        $project = $this->withBall('Chain');
        foreach ([['fill-holes', []], ['remesh', []], ['smooth', ['strength' => 0.3]], ['decimate', ['ratio' => 0.5]], ['inspect', []], ['scale', ['factor' => 2.0]]] as [$operation, $parameters]) {
            in_array($operation, Catalogue::names(), true) && $this->gen->int(0, 3) > 0 && $this->step($project, $operation, $parameters, $this->gen->int(0, 1));
        }
        usleep($this->gen->int(0, 1500) * 1000);
        $this->trouble();
        $state = $this->settled($project);
        for ($again = 0; $again < 5; $again++) {
            $interrupted = array_values(array_filter($state['steps'], fn (array $step) => $step['state'] === 'failed' && str_starts_with((string) $step['message'], 'Interrupted')));
            if ($interrupted === []) {
                break;
            }
            $this->did('interrupted steps run again');
            $this->people[0]->ask('POST', "/projects/$project/steps/{$interrupted[0]['id']}/again");
            $state = $this->settled($project);
        }
        $this->did('chains under trouble');
    }

    /** Files with bytes changed, cut off or doubled: each comes in or is told of, and good ones beside them come in. */
    private function damagedFiles(): void
    {
        $project = $this->newProject('Damaged');
        $uploads = [];
        for ($k = 0; $k < self::DAMAGED; $k++) {
            $ending = self::FORMATS[$k % count(self::FORMATS)];
            $uploads[] = $this->people[0]->upload($project, "damaged-$k.$ending", $this->damaged($this->file($ending)));
        }
        $good = $this->people[0]->upload($project, 'good.stl', $this->bytesOf(MeshBuilder::icosphere(1, 5.0), 'stl'));
        $uploads = array_values(array_filter([...$uploads, $good]));
        $step = $this->step($project, 'import', ['uploads' => $uploads, 'unit' => 'mm']);
        $state = $this->settled($project);
        $this->did('damaged files', count($uploads) - 1);
        if ($step !== null && $good !== null && ! in_array('good', array_column($state['snapshot']['bodies'], 'name'), true)) {
            $ended = array_column($state['steps'], null, 'id')[$step] ?? null;
            if (! str_starts_with((string) ($ended['message'] ?? ''), 'Interrupted')) {
                $this->wrong[] = 'The good file beside damaged ones did not come in: '.json_encode([$ended['state'] ?? 'no such step', $ended['message'] ?? null, array_values(preg_grep('/good/', $ended['figures']['notes'] ?? []) ?: [])]);
            }
        }
    }

    /** A good file of a format: a mesh, or the points of one. */
    private function file(string $ending): string
    {
        $mesh = MeshBuilder::icosphere($this->gen->int(0, 2), 10.0);
        $rows = array_map(fn (array $p) => implode(' ', $p), array_chunk($mesh->positions, 3));
        $count = count($rows);

        return match ($ending) {
            'xyz', 'e57' => $this->bytesOf(PointCloud::fromFlat($mesh->positions), $ending),
            'txt', 'asc' => implode("\n", $rows),
            'csv' => implode("\n", str_replace(' ', ';', $rows)),
            'pts' => "$count\n".implode("\n", array_map(fn (string $row) => "$row -12 10 20 30", $rows)),
            'ptx' => "$count\n1\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n1 0 0 0\n0 1 0 0\n0 0 1 0\n0 0 0 1\n".implode("\n", array_map(fn (string $row) => "$row 0.5", $rows)),
            'ply.gz' => (string) gzencode($this->bytesOf($mesh, 'ply')),
            'zip' => $this->zipped($this->bytesOf($mesh, 'stl')),
            default => $this->bytesOf($mesh, $ending),
        };
    }

    private function zipped(string $bytes): string
    {
        $zip = new \ZipArchive;
        $zip->open($path = "$this->folder/part.zip", \ZipArchive::CREATE | \ZipArchive::OVERWRITE);
        $zip->addFromString('day/part.stl', $bytes);
        $zip->close();

        return (string) file_get_contents($path);
    }

    private function damaged(string $bytes): string
    {
        $n = strlen($bytes);
        for ($k = $this->gen->int(1, 12); $k > 0; $k--) {
            $at = $this->gen->int(0, max(0, strlen($bytes) - 1));
            $bytes = match ($this->gen->int(0, 5)) {
                0 => substr($bytes, 0, max(1, $at)),
                1 => substr($bytes, 0, $at).substr($bytes, intdiv($at, 2)),
                default => substr_replace($bytes, chr($this->gen->int(0, 255)), $at, 1),
            };
        }

        return substr($bytes, 0, 2 * $n + 1);
    }

    /** Both halves of a double click: one step; and of two deletions, one. */
    private function doubledRequests(): void
    {
        $project = $this->withBall('Doubled');
        $this->settled($project);
        $before = Step::query()->where('project_id', $project)->count();
        $answers = $this->people[0]->askTwice('POST', "/projects/$project/steps", ['operation' => 'decimate', 'parameters' => ['ratio' => 0.5], 'key' => (string) Str::uuid()]);
        $ids = array_filter(array_map(fn (array $answer) => $answer[1]['id'] ?? null, $answers));
        $this->settled($project);
        if (count(array_unique($ids)) !== 1 || Step::query()->where('project_id', $project)->count() !== $before + 1) {
            $this->wrong[] = 'A doubled request made '.(Step::query()->where('project_id', $project)->count() - $before).' steps: '.json_encode($answers);
        }
        foreach (['undo', 'redo', 'undo'] as $what) {
            $this->people[0]->askTwice('POST', "/projects/$project/$what", []);
        }
        $this->settled($project);
        $this->people[0]->askTwice('POST', '/projects', ['name' => 'Twice made']);
        foreach ($this->people[0]->ask('GET', '/projects')[1] ?? [] as $row) {
            $row['name'] !== 'Twice made' || $this->people[0]->askTwice('DELETE', "/projects/{$row['id']}", []);
        }
        $this->did('doubled requests', 6);
    }

    /** Two people undo, stop and add on one project at once. */
    private function twoAtOnce(): void
    {
        $project = $this->withBall('Shared');
        for ($k = 0; $k < 12; $k++) {
            $who = $this->people[$this->gen->int(0, 1)];
            match ($this->gen->int(0, 4)) {
                0 => $who->ask('POST', "/projects/$project/undo", []),
                1 => $who->ask('POST', "/projects/$project/redo", []),
                2 => $this->step($project, 'scale', ['factor' => 1.5], $this->gen->int(0, 1)),
                3 => $this->step($project, 'fill-holes', [], $this->gen->int(0, 1)),
                default => $who->ask('POST', "/projects/$project/steps/".((int) Step::query()->where('project_id', $project)->max('id')).'/stop', []),
            };
        }
        $this->settled($project);
        $this->did('projects with two at work');
    }

    /** Deletes a project, in the middle of its steps at times. */
    private function deletedProject(): void
    {
        $project = $this->withBall('Deleted');
        $this->step($project, 'fill-holes');
        $this->gen->int(0, 1) === 0 || $this->settled($project);
        $held = fn () => DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->where('project_id', $project)->distinct()->pluck('hash');
        $hashes = LostConnection::outlasted($held);
        [$status] = $this->people[0]->ask('DELETE', "/projects/$project");
        $left = DB::table('blobs')->whereIn('hash', $hashes)->whereNotExists(fn ($others) => $others->from('step_blobs')->whereColumn('step_blobs.hash', 'blobs.hash'))->count();
        $left === 0 || $this->wrong[] = "A project is deleted, and $left of its blobs are left.";
        $status === 204 ? $this->projects = array_values(array_diff($this->projects, [$project])) : $this->wrong[] = "A project could not be deleted: $status";
        $this->did('deleted projects');
    }

    /** No room at all: steps and uploads say so, and work again when there is. */
    private function fullDisk(): void
    {
        $project = $this->withBall('Full disk');
        $this->settled($project);
        $upload = $this->people[0]->upload($project, 'more.stl', $this->bytesOf(MeshBuilder::icosphere(5, 12.0), 'stl'));
        $ballast = "$this->var/ballast";
        exec('dd if=/dev/zero of='.escapeshellarg($ballast).' bs=1M status=none 2>/dev/null');
        try {
            [$status, $answer] = $this->people[0]->ask('GET', "/projects/$project");
            if ($status === 200 && ($answer['diskUsed'] ?? 0) < 0.97) {
                $this->wrong[] = 'A full disk is not told of in the window.';
            }
            $refused = $this->people[0]->upload($project, 'no-room.stl', str_repeat('solid', 1000));
            $refused === null || $this->wrong[] = 'An upload was taken onto a full disk.';
            $step = $upload === null ? null : $this->step($project, 'import', ['uploads' => [$upload], 'unit' => 'mm']);
            if ($step !== null) {
                try {
                    $ended = array_column($this->settled($project)['steps'], null, 'id')[$step] ?? null;
                    if (($ended['state'] ?? '') === 'failed' && preg_match('/disk|full|Interrupted/i', (string) $ended['message']) !== 1) {
                        $this->wrong[] = "On a full disk a step said: {$ended['message']}";
                    }
                } catch (RuntimeException) {
                    // The database cannot write that it has ended either; it must when there is room.
                }
            }
        } finally {
            @unlink($ballast);
        }
        $this->settled($project);
        $again = $this->people[0]->upload($project, 'room.stl', $this->bytesOf(MeshBuilder::icosphere(2, 5.0), 'stl'));
        $step = $again === null ? null : $this->step($project, 'import', ['uploads' => [$again], 'unit' => 'mm']);
        $ended = $step === null ? null : array_column($this->settled($project)['steps'], null, 'id')[$step] ?? null;
        if (($ended['state'] ?? null) !== 'done') {
            $this->wrong[] = 'With room again an import did not go through: '.json_encode($ended['message'] ?? 'refused');
        }
        $this->did('full disks');
    }

    private function checkAll(): void
    {
        foreach ($this->projects as $project) {
            try {
                $this->settled($project);
            } catch (RuntimeException $problem) {
                $this->wrong[] = $problem->getMessage();
            }
        }
        foreach ($this->people as $person) {
            array_push($this->wrong, ...$person->faults);
            $this->did('requests', $person->asked);
        }
        LostConnection::outlasted(fn () => DB::select('select 1'));
        $blobs = app(BlobStore::class);
        $held = DB::table('step_blobs')->distinct()->pluck('hash');
        foreach ($held as $hash) {
            $blobs->isIntact($hash) || $this->wrong[] = "Blob $hash is damaged.";
        }
        $this->did('blobs read', $held->count());
        $this->checkReproducible();
        foreach ($this->projects as $project) {
            [$status] = $this->people[0]->ask('DELETE', "/projects/$project");
            $status === 204 || $this->wrong[] = "Project $project could not be deleted at the end: $status";
        }
        app(Kernel::class)->call('emberstone:sweep', ['--hours' => 0]);
        foreach (['blobs', 'blob_chunks', 'step_blobs', 'uploads', 'steps'] as $table) {
            $left = DB::table($table)->count();
            $left === 0 || $this->wrong[] = "All projects are deleted, and $left rows of $table are left.";
        }
        $left = count(glob("$this->var/storage/uploads/*") ?: []);
        $left === 0 || $this->wrong[] = "All projects are deleted, and $left files of uploads are left.";
    }

    /** Steps that are done, computed once more: the same geometry to the bit. */
    private function checkReproducible(): void
    {
        $work = app(StepWork::class);
        $steps = Step::query()->where('state', 'done')->whereNotIn('operation', Ledger::ARRIVALS)->orderByRaw('md5(id::text)')->limit(12)->get();
        foreach ($steps as $step) {
            $geometry = fn (array $snapshot) => array_map(fn (array $body) => $body['blob'], $snapshot['bodies']);
            $again = $work->result($step, new NoProgress, fn (callable $piece) => $piece());
            $geometry($again['snapshot']) === $geometry($step->snapshot) || $this->wrong[] = "Step $step->id ($step->operation) gives other geometry when it is computed again.";
        }
        $this->did('steps computed once more', $steps->count());
    }
}
