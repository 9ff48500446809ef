<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Capture;
use App\Models\Step;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\SweepFit;
use Emberstone\Core\Register\Sweeps;
use Illuminate\Support\Str;

/** Makes passes of a finished capture: one a sweep. */
final class CaptureImport
{
    /** Frames that move less than this, mm, are not worth a word. */
    private const TOLD = 0.001;

    public function __construct(private readonly Workbench $workbench)
    {
    }

    /**
     * @param  array<string, mixed>  $snapshot
     * @return array{snapshot: array<string, mixed>, headline: string, after: array<string, mixed>, notes: list<string>}
     */
    public function __invoke(Step $step, array $snapshot, Progress $progress): array
    {
        $capture = Capture::query()->where('project_id', $step->project_id)->whereKey($step->parameters['capture'] ?? null)->first();
        if ($capture === null) {
            throw UnsuitableInput::because('What this capture delivered is not there any more; capture again.');
        }
        $name = Str::ucfirst(str_replace('-', ' ', $capture->scanner['part'] ?? 'capture'));
        $points = $made = 0;
        $fits = [];
        foreach (Sweeps::of($capture->eachFrame(), new PartProgress($progress, 0.0, 0.9)) as ['cloud' => $cloud, 'fit' => $fit]) {
            $pass = Pass::of(sprintf('%s, sweep %d', $name, count($snapshot['passes']) + 1), $cloud);
            $snapshot['passes'][] = $this->workbench->passRow($pass, null, null);
            $points += $cloud->count();
            $made++;
            $fits[] = $fit;
        }
        $notes = $capture->lost > 0 ? ["Tracking was lost in {$capture->lost} of {$capture->frames} frames; they hold no points."] : [];
        $tightened = array_values(array_filter($fits, fn (SweepFit $fit) => $fit->residual !== null && $fit->farthest >= self::TOLD));
        $most = fn (string $figure): float => (float) max(array_column($tightened, $figure));
        if ($tightened !== []) {
            $notes[] = sprintf(
                'Frames were moved by up to %s to lie on the others of their sweep: %s apart now, %s before.',
                Format::mm($most('farthest')), Format::mm($most('residual')), Format::mm($most('before')),
            );
        }

        return [
            'snapshot' => $snapshot, 'headline' => $made.($made === 1 ? ' pass' : ' passes').' · '.Format::count($points).' points',
            'after' => ['frames' => $capture->frames, 'lost' => $capture->lost, 'points' => $points, 'coverage' => $capture->coverage],
            'notes' => $notes,
        ];
    }
}
