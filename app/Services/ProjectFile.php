<?php

declare(strict_types=1);

namespace App\Services;

use App\Http\Border\Shape;
use App\Http\Border\Shapes;
use App\Models\Project;
use App\Models\Step;
use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Exchange\BlobCheck;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Foundation\Version;
use Emberstone\Core\Recipe\Catalogue;
use Illuminate\Support\Facades\DB;
use ZipArchive;

/**
 * A whole project as one file, to go on with on another installation: see docs/project-file.md. What comes out is bit for bit what went in.
 *
 * A file from elsewhere is believed nothing: its text is checked against the shapes that answers have, its geometry against the hashes and heads that it goes by, before anything is stored.
 */
final class ProjectFile
{
    public const ENDING = 'emberstone';

    /** Of what `project.json` holds; raised when an earlier release could not read it. */
    private const VERSION = 1;

    /** Bytes of `project.json`: ten thousand steps with their states. */
    private const MOST_TEXT = 256 << 20;

    /** States of steps that go along. Those that failed or were stopped changed nothing. */
    private const STATES = ['done', 'set-aside'];

    public function __construct(private readonly BlobStore $blobs)
    {
    }

    public static function isOne(string $name): bool
    {
        return strtolower(pathinfo($name, PATHINFO_EXTENSION)) === self::ENDING;
    }

    public static function nameOf(Project $project): string
    {
        return Names::forFile($project->name).'.'.self::ENDING;
    }

    public function write(Project $project, string $path): void
    {
        $steps = $project->steps()->with('user')->where('trial', false)->whereIn('state', self::STATES)->orderBy('id')->get();
        $sizes = DB::table('blobs')->whereIn('hash', DB::table('step_blobs')->whereIn('step_id', $steps->modelKeys())->select('hash'))->orderBy('hash')->pluck('size', 'hash')->all();
        $zip = new ZipArchive;
        if ($zip->open($path, ZipArchive::CREATE | ZipArchive::OVERWRITE) !== true) {
            throw UnsuitableInput::because('The project cannot be written to a file: the disk of this machine may be full.');
        }
        $add = function (string $name, callable $put) use ($zip): void {
            // Nothing is packed: geometry hardly gets smaller, and whoever opens it knows from the start how large it is.
            $put($name) && $zip->setCompressionName($name, ZipArchive::CM_STORE);
        };
        $text = json_encode([
            'emberstone' => self::VERSION, 'software' => Version::NUMBER,
            'project' => ['id' => $project->id, 'name' => $project->name, 'brief' => $project->brief, 'labels' => (object) $project->labels, 'looks' => (object) $project->looks, 'locked' => $project->locked, 'trayOrder' => $project->tray_order, 'scaleConfirmed' => $project->scaleConfirmed()],
            'head' => $project->head_step_id,
            'steps' => $steps->map(fn (Step $step) => [
                'id' => $step->id, 'parent' => $step->parent_id, 'origin' => $step->origin_id, 'madeAs' => $step->made_as ?? "$project->id ".($step->origin_id ?? $step->id), 'by' => $step->takenBy(), 'operation' => $step->operation,
                'parameters' => (object) $step->parameters, 'worksOn' => $step->works_on, 'state' => $step->state, 'snapshot' => $step->snapshot, 'figures' => $step->figures, 'seconds' => $step->seconds, 'at' => $step->created_at?->toIso8601String(),
            ])->all(),
            'blobs' => (object) $sizes,
        ], JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_PRESERVE_ZERO_FRACTION);
        $add('project.json', fn (string $name) => $zip->addFromString($name, $text));
        foreach (array_keys($sizes) as $hash) {
            $add("blobs/$hash", fn (string $name) => $zip->addFile($this->blobs->path((string) $hash), $name));
        }
        if (! $zip->close()) {
            @unlink($path);
            throw UnsuitableInput::because('The project cannot be written to a file: the disk of this machine may be full.');
        }
    }

    /**
     * Checks a file and stores its geometry; the ledger is for RestoredLedger to write.
     *
     * @throws UnsuitableInput when it is no project file, damaged, or of a later release
     */
    public function read(string $path, Progress $progress): RestoredLedger
    {
        $zip = new ZipArchive;
        if ($zip->open($path, ZipArchive::RDONLY) !== true) {
            throw UnsuitableInput::because('This is no project file, or it did not arrive whole: it cannot be opened.');
        }
        try {
            $held = self::text($zip);
            $total = max(1, array_sum($held['blobs']));
            if ($total > (disk_free_space(storage_path()) ?: INF)) {
                throw UnsuitableInput::because('The project takes '.Format::plain($total / 1e9, 1).' GB, more than the disk of this machine has free. Delete projects that are done with, then open it again.');
            }
            $done = 0;
            $checks = self::checks($held['steps']);
            foreach ($held['blobs'] as $hash => $size) {
                $this->take($zip, (string) $hash, $size, $checks[$hash] ?? []);
                $done += $size;
                $progress->advance('checking geometry', $done / $total);
            }

            return new RestoredLedger($held);
        } finally {
            $zip->close();
        }
    }

    /** @return array{project: array<string, mixed>, head: int|null, steps: list<array<string, mixed>>, blobs: array<string, int>} */
    private static function text(ZipArchive $zip): array
    {
        $stat = self::entry($zip, 'project.json', self::MOST_TEXT);
        $held = json_decode((string) $zip->getFromName('project.json', $stat), true, 128);
        if (! is_array($held) || ! is_int($held['emberstone'] ?? null)) {
            throw UnsuitableInput::because('This is no project file: what should describe the project is none.');
        }
        if ($held['emberstone'] > self::VERSION) {
            throw UnsuitableInput::because('This project file is of a later release of Emberstone ('.(is_string($held['software'] ?? null) ? $held['software'] : 'unknown').'); this one is '.Version::NUMBER.'. Bring this installation up to date, then open it again.');
        }
        $mistakes = self::shape()->mistakes($held, 'the project file');
        if ($mistakes !== []) {
            throw UnsuitableInput::because('The project file is damaged: '.$mistakes[0].'.');
        }
        self::checkSteps($held['steps'], $held['head'], $held['blobs']);
        try {
            Brief::fromArray($held['project']['brief']);
        } catch (EmberstoneException $wrong) {
            throw UnsuitableInput::because('The project file is damaged: '.$wrong->getMessage());
        }

        return $held;
    }

    private static function shape(): Shape
    {
        return Shape::object([
            'emberstone' => Shape::integer(1), 'software' => Shape::text(40),
            'project' => Shape::object([
                'id' => Shape::uuid(), 'name' => Shape::text(120), 'brief' => Shape::map(Shape::anything(), 50), 'labels' => Shape::map(Shape::text(200), 5000), 'looks' => Shape::map(Shapes::of('Look'), 5000)->optional(), 'locked' => Shape::listOf(Shape::uuid(), 0, 5000),
                'trayOrder' => Shape::listOf(Shape::text(200), 0, 20000), 'scaleConfirmed' => Shapes::of('ScaleConfirmed')->nullable(),
            ]),
            'head' => Shape::integer(1)->nullable(),
            'steps' => Shape::listOf(Shape::object([
                'id' => Shape::integer(1), 'parent' => Shape::integer(1)->nullable(), 'origin' => Shape::integer(1)->nullable(), 'madeAs' => Shape::text(60), 'by' => Shape::text(255)->nullable(), 'operation' => Shape::text(40),
                'parameters' => Shape::anything(), 'worksOn' => Shape::listOf(Shape::uuid(), 0, 5000)->nullable(), 'state' => Shape::choice(self::STATES), 'snapshot' => Shape::anything(), 'figures' => Shape::anything(),
                'seconds' => Shape::number(0)->nullable(), 'at' => Shape::time()->nullable(),
            ]), 0, 100_000),
            'blobs' => Shape::map(Shape::integer(0)),
        ]);
    }

    /**
     * @param  list<array<string, mixed>>  $steps
     * @param  array<string, int>  $blobs
     */
    private static function checkSteps(array $steps, ?int $head, array $blobs): void
    {
        $known = [...Catalogue::names(), ...Ledger::ARRIVALS];
        $before = [];
        foreach ($steps as $step) {
            $says = "The project file is damaged: step {$step['id']} ";
            if (! in_array($step['operation'], $known, true)) {
                throw UnsuitableInput::because("The project file has a step \"{$step['operation']}\" that this release does not know. Bring this installation up to date, then open it again.");
            }
            // An origin that did not go along is no loss: what is made is named by madeAs.
            if ($step['parent'] !== null && ! isset($before[$step['parent']])) {
                throw UnsuitableInput::because($says.'comes after one that is not there.');
            }
            if (isset($before[$step['id']]) || preg_match('/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12} \d{1,18}$/', $step['madeAs']) !== 1 || ! is_array($step['parameters']) || ! is_array($step['snapshot']) || ! is_array($step['figures'] ?? [])) {
                throw UnsuitableInput::because($says.'is not as steps are.');
            }
            $before[$step['id']] = true;
            $wrong = self::mistakesOf($step);
            if ($wrong !== null) {
                throw UnsuitableInput::because("$says$wrong.");
            }
            foreach (array_keys(self::hashes($step)) as $hash) {
                if (! isset($blobs[$hash])) {
                    throw UnsuitableInput::because($says.'speaks of geometry that is not in the file.');
                }
            }
        }
        if ($head !== null && ! isset($before[$head])) {
            throw UnsuitableInput::because('The project file is damaged: the step that it stands at is not there.');
        }
    }

    /** @param  array<string, mixed>  $step */
    private static function mistakesOf(array $step): ?string
    {
        $state = Step::current($step['snapshot']);
        foreach (['passes' => 'PassItem', 'bodies' => 'BodyItem', 'datums' => 'DatumItem', 'artefacts' => 'ArtefactItem'] as $kind => $shape) {
            if (! is_array($state[$kind]) || ! array_is_list($state[$kind])) {
                return "has no list of $kind";
            }
            foreach ($state[$kind] as $row) {
                // What the window adds to every row.
                $mistakes = ! is_array($row) ? ['it is none'] : Shapes::of($shape)->mistakes(json_decode((string) json_encode(Shapes::of($shape)->only($row + ['nth' => 0, 'locked' => false])), true), $kind);
                if ($mistakes !== []) {
                    return "is not as steps are: $mistakes[0]";
                }
            }
        }
        $confirmed = Shapes::of('ScaleConfirmed')->nullable()->mistakes($step['snapshot']['scaleConfirmed'] ?? null, 'scaleConfirmed');
        if ($confirmed !== []) {
            return "is not as steps are: $confirmed[0]";
        }
        $scaleError = $step['snapshot']['scaleError'] ?? null;
        if ($scaleError !== null && (! (is_int($scaleError) || is_float($scaleError)) || $scaleError < 0)) {
            return 'tells of an error of the scale that is none';
        }
        foreach ($step['figures']['maps'] ?? [] as $map) {
            if (! is_array($map) || ! is_string($map['blob'] ?? null)) {
                return 'has a map that is none';
            }
        }

        return null;
    }

    /**
     * @param  array<string, mixed>  $step
     * @return array<string, array{kind: string, points: int|null, faces: int|null}> what each blob that it speaks of is to be
     */
    private static function hashes(array $step): array
    {
        $state = Step::current($step['snapshot']);
        $hashes = [];
        foreach ([...$state['passes'], ...$state['bodies']] as $row) {
            $hashes[$row['blob']] = ['kind' => 'geometry', 'points' => $row['points'], 'faces' => $row['faces'] ?? null];
            if (isset($row['mask'])) {
                $hashes[(string) $row['mask']] = ['kind' => 'geometry', 'points' => null, 'faces' => null];
            }
        }
        foreach ($state['artefacts'] as $row) {
            $hashes[$row['blob']] = ['kind' => 'text', 'points' => null, 'faces' => null];
        }
        foreach ($step['figures']['maps'] ?? [] as $map) {
            $hashes[$map['blob']] = ['kind' => 'geometry', 'points' => null, 'faces' => null];
        }

        return $hashes;
    }

    /**
     * @param  list<array<string, mixed>>  $steps
     * @return array<string, list<array{kind: string, points: int|null, faces: int|null}>> by hash
     */
    private static function checks(array $steps): array
    {
        $checks = [];
        foreach ($steps as $step) {
            foreach (self::hashes($step) as $hash => $check) {
                $checks[$hash][serialize($check)] = $check;
            }
        }

        return array_map(array_values(...), $checks);
    }

    /** The size of an entry that is there, not packed, and not too large. */
    private static function entry(ZipArchive $zip, string $name, int $most): int
    {
        $stat = $zip->statName($name);
        if ($stat === false) {
            throw UnsuitableInput::because("This is no project file, or it is damaged: $name is not in it.");
        }
        if ($stat['comp_method'] !== ZipArchive::CM_STORE || $stat['size'] > $most) {
            throw UnsuitableInput::because("This is no project file, or it was packed by another program: $name is not stored as it is.");
        }

        return $stat['size'];
    }

    /** @param  list<array{kind: string, points: int|null, faces: int|null}>  $checks */
    private function take(ZipArchive $zip, string $hash, int $size, array $checks): void
    {
        $damaged = UnsuitableInput::because('The project file is damaged: a piece of its geometry is not what it was. Get the file anew.');
        if ($checks === []) {
            throw UnsuitableInput::because('The project file is damaged: it holds geometry that no step speaks of.');
        }
        if (self::entry($zip, "blobs/$hash", PHP_INT_MAX) !== $size) {
            throw $damaged;
        }
        $path = storage_path('framework/opening-'.bin2hex(random_bytes(8)));
        $from = $zip->getStream("blobs/$hash");
        $to = fopen($path, 'xb');
        try {
            if ($from === false || $to === false || stream_copy_to_stream($from, $to) !== $size || ! fclose($to) || hash_file('sha256', $path) !== $hash) {
                throw $damaged;
            }
            foreach ($checks as $check) {
                if ($check['kind'] === 'text') {
                    is_array(json_decode((string) file_get_contents($path), true, 64)) || throw $damaged;

                    continue;
                }
                $head = BlobCheck::of($path, 'geometry');
                if ($check['points'] !== null && $head['points'] !== $check['points'] || $check['faces'] !== null && ($head['faces'] ?? 0) !== $check['faces']) {
                    throw $damaged;
                }
            }
            $this->blobs->putFile($path);
        } finally {
            @unlink($path);
        }
    }
}
