<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use App\Models\Step;
use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Foundation\Format;
use Illuminate\Support\Carbon;

/** The ledger of a project file, checked, to be written after the step that opens it. */
final readonly class RestoredLedger
{
    /** @param  array{project: array<string, mixed>, head: int|null, steps: list<array<string, mixed>>, blobs: array<string, int>}  $held  see ProjectFile */
    public function __construct(private array $held)
    {
    }

    public function headline(): string
    {
        $people = array_values(array_unique(array_filter(array_column($this->held['steps'], 'by'))));

        return "Opened \"{$this->held['project']['name']}\": ".Format::many(count($this->held['steps']), 'step').($people === [] ? '' : ' by '.implode(', ', array_slice($people, 0, 3)));
    }

    /** Takes part in the transaction that is open. */
    public function into(Project $project, Step $opening): void
    {
        $ids = [];
        foreach ($this->held['steps'] as $row) {
            $step = new Step([
                'project_id' => $project->id, 'parent_id' => $ids[$row['parent']] ?? $opening->id, 'origin_id' => $ids[$row['origin']] ?? null, 'operation' => $row['operation'], 'parameters' => $row['parameters'], 'works_on' => $row['worksOn'],
                'state' => $row['state'], 'progress' => 1.0, 'snapshot' => $row['snapshot'], 'figures' => $row['figures'], 'seconds' => $row['seconds'], 'made_as' => $row['madeAs'], 'by_name' => $row['by'],
            ]);
            $step->forceFill(['created_at' => $row['at'] === null ? now() : Carbon::parse($row['at'])])->save();
            $ids[$row['id']] = $step->id;
        }
        $from = $this->held['project'];
        $project->update([
            'head_step_id' => $ids[$this->held['head']] ?? $opening->id, 'brief' => Brief::fromArray($from['brief'])->toArray(), 'labels' => $from['labels'], 'looks' => $from['looks'] ?? [], 'locked' => $from['locked'], 'tray_order' => $from['trayOrder'],
            'scale_confirmed' => $from['scaleConfirmed'],
        ]);
    }
}
