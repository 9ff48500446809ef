<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Capture;
use App\Models\Step;
use Emberstone\Core\Capture\Sweeps;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\UnsuitableInput;
use Illuminate\Support\Str;

/** Makes passes of a finished capture: one a sweep. */
final class CaptureImport
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
        $capture = Capture::query()->where('project_id', $step->project_id)->find($step->parameters['capture'] ?? null);
        if ($capture === null) {
            throw UnsuitableInput::because('What this capture delivered is not there any more; capture again.');
        }
        $name = Str::ucfirst(str_replace('-', ' ', $capture->scanner['part'] ?? 'capture'));
        $sweeps = Sweeps::of($capture->eachFrame());
        $points = $made = 0;
        foreach ($sweeps as $cloud) {
            $pass = Pass::of(sprintf('%s, sweep %d', $name, count($snapshot['passes']) + 1), $cloud);
            $snapshot['passes'][] = $this->workbench->passRow($pass, null, null);
            $points += $cloud->count();
            $progress->advance('laying sweeps together', ++$made / count($sweeps));
        }

        return [
            'snapshot' => $snapshot, 'headline' => $made.($made === 1 ? ' pass' : ' passes').' · '.Format::count($points).' points',
            'after' => ['frames' => $capture->frames, 'lost' => $capture->lost, 'points' => $points, 'coverage' => $capture->coverage],
            'notes' => $capture->lost > 0 ? ["Tracking was lost in {$capture->lost} of {$capture->frames} frames; they hold no points."] : [],
        ];
    }
}
