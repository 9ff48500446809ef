<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use App\Models\Upload;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Unit;
use Emberstone\Core\Operation\UnsuitableInput;
use Illuminate\Support\Str;

/** Reads uploaded files into passes (clouds) and bodies (meshes). */
final class Import
{
    public function __construct(private readonly Workbench $workbench)
    {
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @return array{snapshot: array<string, mixed>, headline: string, after: array<string, mixed>, notes: list<string>}
     */
    public function __invoke(Step $step, array $snapshot, Progress $progress): array
    {
        $ids = $step->parameters['uploads'] ?? [];
        $unit = Unit::tryFrom((string) ($step->parameters['unit'] ?? ''));
        $notes = [];
        $points = 0;
        $guessed = ['items' => [], 'lengthMm' => 0.0, 'unit' => null];
        foreach ($ids as $k => $id) {
            $upload = Upload::query()->where('project_id', $step->project_id)->find($id);
            if ($upload === null || $upload->received !== $upload->size) {
                throw UnsuitableInput::because('The upload of a file was not finished; send it again.');
            }
            $loaded = $upload->withItsName(Formats::read(...));
            $points += intdiv(count($loaded->geometry->positions), 3);
            $longest = BoundingBox::of($loaded->geometry->positions)->longestSide();
            $chosen = $loaded->unit ?? $unit ?? Unit::from($guessed['unit'] ??= Unit::guess($longest)->value);
            $placement = Transform::scale($chosen->inMillimetres());
            $size = $longest * $chosen->inMillimetres();
            $name = Str::limit(pathinfo($upload->name, PATHINFO_FILENAME), 60, '…');
            $notes[] = sprintf('%s: about %s long, read as %s%s.', $name, $size >= 1000 ? number_format($size / 1000, 2).' m' : number_format($size, $size < 10 ? 2 : 0).' mm', $chosen->value, $loaded->unit === null && $unit === null ? ' by its size (the file does not say)' : '');
            if ($loaded->geometry instanceof PointCloud) {
                $snapshot['passes'][] = $this->workbench->passRow(new Pass('', $name, $loaded->geometry, $placement), null, null);
            } else {
                $snapshot['bodies'][] = $this->workbench->bodyRow((string) Str::uuid(), new Body('', $name, $loaded->geometry, $placement), null, null);
            }
            if ($loaded->unit === null && $unit === null) {
                $guessed['items'][] = ($loaded->geometry instanceof PointCloud ? end($snapshot['passes']) : end($snapshot['bodies']))['id'];
                $guessed['lengthMm'] = max($guessed['lengthMm'], $size);
            }
            $progress->advance('reading', ($k + 1) / count($ids));
        }
        $count = count($ids);

        return ['snapshot' => $snapshot, 'headline' => ($count === 1 ? '1 file' : "$count files").' · '.Format::count($points).' points', 'after' => ['files' => $count, 'points' => $points, 'guessed' => $guessed['items'] === [] ? null : $guessed], 'notes' => $notes];
    }
}
