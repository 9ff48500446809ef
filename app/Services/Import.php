<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use App\Models\Upload;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Exchange\ReadApart;
use Emberstone\Core\Exchange\ReadThing;
use Emberstone\Core\Exchange\TextColumns;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Measure\SizeCheck;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Str;

/** Reads uploaded files into passes (clouds) and bodies (meshes). A file that cannot be read keeps none of the others out. */
final class Import
{
    public function __construct(private readonly Workbench $workbench, private readonly ReadApart $readApart, private readonly ProjectFile $projectFile)
    {
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @return array{snapshot: array<string, mixed>, headline: string, after: array<string, mixed>, notes: list<string>, ledger?: RestoredLedger}
     */
    public function __invoke(Step $step, array $snapshot, Progress $progress): array
    {
        $uploads = [];
        foreach ($step->parameters['uploads'] ?? [] as $id) {
            $upload = Upload::query()->where('project_id', $step->project_id)->whereKey($id)->first();
            if ($upload === null || $upload->received !== $upload->size) {
                throw UnsuitableInput::because('The upload of a file was not finished; send it again.');
            }
            $uploads[] = $upload;
        }
        if (array_filter($uploads, fn (Upload $upload) => ProjectFile::isOne($upload->name)) !== []) {
            return $this->opened($step, $uploads, $progress);
        }
        $folder = storage_path('framework/import-'.Str::uuid());
        File::ensureDirectoryExists($folder);
        try {
            $files = array_map(fn (Upload $upload) => $upload->linkUnderItsName($folder), $uploads);
            $columns = [];
            foreach ($uploads as $k => $upload) {
                if (isset($step->parameters['columns'][$upload->id])) {
                    $columns[$k] = TextColumns::of($step->parameters['columns'][$upload->id]);
                }
            }
            $read = ($this->readApart)($files, $folder, Cores::count(), $progress, $columns);

            return $this->taken($snapshot, $uploads, $read, Unit::tryFrom((string) ($step->parameters['unit'] ?? '')));
        } finally {
            File::deleteDirectory($folder);
        }
    }

    /**
     * A project file in a project that is empty.
     *
     * @param  list<Upload>  $uploads
     * @return array{snapshot: array<string, mixed>, headline: string, after: array<string, mixed>, notes: list<string>, ledger: RestoredLedger}
     */
    private function opened(Step $step, array $uploads, Progress $progress): array
    {
        if (count($uploads) > 1 || Step::query()->where('project_id', $step->project_id)->whereKeyNot($step->id)->whereIn('state', ['done', 'set-aside'])->exists()) {
            throw UnsuitableInput::because('A project file is opened by itself, in a project that is empty: make a new one, or use Open a project file in the list of projects.');
        }
        $ledger = $this->projectFile->read($uploads[0]->parts()->whole(), $progress);

        return ['snapshot' => Step::EMPTY_SNAPSHOT, 'headline' => $ledger->headline(), 'after' => [], 'notes' => [], 'ledger' => $ledger];
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @param  list<Upload>  $uploads
     * @param  list<list<ReadThing>|UnreadableFile>  $read
     * @return array{snapshot: array<string, mixed>, headline: string, after: array<string, mixed>, notes: list<string>}
     */
    private function taken(array $snapshot, array $uploads, array $read, ?Unit $unit): array
    {
        $problems = array_values(array_filter($read, fn ($result) => $result instanceof UnreadableFile));
        if (count($problems) === count($read)) {
            throw UnsuitableInput::because(implode(' ', array_map(fn (UnreadableFile $problem) => $problem->getMessage().'.', array_slice($problems, 0, 5))));
        }
        $notes = array_map(fn (UnreadableFile $problem) => 'Not brought in: '.$problem->getMessage().'.', $problems);
        $points = $things = 0;
        $guess = null;
        $guessed = ['items' => [], 'lengthMm' => 0.0];
        $sizes = [];
        foreach ($read as $k => $result) {
            foreach ($result instanceof UnreadableFile ? [] : $result as $thing) {
                $isGuessed = $thing->unit === null && $unit === null;
                $chosen = $thing->unit ?? $unit ?? ($guess ??= Unit::guess($thing->size));
                $file = Str::beforeLast($uploads[$k]->name, '.');
                // A zip is only a wrapping: the files in it have names of their own.
                $name = Str::limit(trim(Str::endsWith(Str::lower($uploads[$k]->name), '.zip') ? $thing->name : "$file $thing->name"), 60, '…');
                $row = $this->workbench->newRow($thing, $name, Placement::of($chosen->inMillimetres(), $thing->pose->withShiftTimes($chosen->inMillimetres())));
                $snapshot[$thing->kind === 'mesh' ? 'bodies' : 'passes'][] = $row;
                $size = $thing->size * $chosen->inMillimetres();
                $sizes[$row['id']] = ['sizeMm' => $size, 'unit' => $chosen, 'name' => $name];
                $notes[] = sprintf('%s: about %s long, read as %s%s.', $name, self::inWords($size), $chosen->value, $isGuessed ? ' by its size (the file does not say)' : '');
                array_push($notes, ...$thing->notes);
                if ($isGuessed) {
                    $guessed['items'][] = $row['id'];
                    $guessed['lengthMm'] = max($guessed['lengthMm'], $size);
                }
                $points += $thing->points;
                $things++;
            }
        }
        $odd = [];
        foreach (SizeCheck::oddOnes($sizes) as $id => ['unit' => $other, 'times' => $times]) {
            $odd[] = ['id' => $id, 'unit' => $other->value, 'was' => $sizes[$id]['unit']->value, 'sizeMm' => $sizes[$id]['sizeMm'] * $times];
            $notes[] = sprintf('%s is %s than the others: read as %s it would be about %s long.', $sizes[$id]['name'], $times > 1.0 ? 'far smaller' : 'far larger', $other->value, self::inWords($sizes[$id]['sizeMm'] * $times));
        }
        $files = count($read) - count($problems);

        return [
            'snapshot' => $snapshot,
            'headline' => ($files === 1 ? '1 file' : "$files files").($things > $files ? ", $things passes" : '').' · '.Format::count($points).' points',
            'after' => ['files' => $files, 'refused' => count($problems), 'points' => $points, 'guessed' => $guess === null ? null : $guessed + ['unit' => $guess->value], 'oddSizes' => $odd],
            'notes' => $notes,
        ];
    }

    private static function inWords(float $mm): string
    {
        return $mm >= 1000 ? number_format($mm / 1000, 2).' m' : number_format($mm, $mm < 10 ? 2 : 0).' mm';
    }
}
