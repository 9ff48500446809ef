<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use App\Models\Step;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Emberstone\Core\Deliver\Handover\HandoverContext;
use Emberstone\Core\Deliver\Handover\Package;
use Emberstone\Core\Deliver\Handover\ReportPage;
use Emberstone\Core\Deliver\Handover\ReportPdf;
use Emberstone\Core\Foundation\Version;
use Emberstone\Core\Recipe\Catalogue;

/** Reports and packages of what was handed over: all from what the delivery and the ledger hold, so that each is the same to the bit whenever it is asked for. */
final class Handover
{
    /** @return string the bytes of a `pdf`, `html` or `zip` */
    public function bytes(Project $project, string $artefact, HandedOver $delivery, string $format): string
    {
        $context = $this->context($project, $artefact);
        if ($format === 'zip') {
            return Package::zip(Package::files($delivery, $context, null), $delivery, $context);
        }
        $html = ReportPage::html($delivery, $context);

        return $format === 'pdf' ? ReportPdf::of($html, $context->at) : $html;
    }

    private function context(Project $project, string $artefact): HandoverContext
    {
        $labels = ['import' => 'Bring in', 'capture' => 'Live capture'] + array_column(Catalogue::describe(), 'label', 'name');
        $steps = $measurements = $comparisons = [];
        $line = $this->line($project, $artefact);
        foreach ($line as $step) {
            $figures = $step->figures ?? [];
            $steps[] = ['label' => $labels[$step->operation] ?? $step->operation, 'what' => (string) ($figures['headline'] ?? ''), 'notes' => array_values(array_map(strval(...), $figures['notes'] ?? []))];
            array_push($measurements, ...array_values($figures['after']['measurements'] ?? []));
            array_push($comparisons, ...array_values($figures['after']['comparisons'] ?? []));
        }
        $last = end($line) ?: null;

        return new HandoverContext(
            $last?->created_at?->toImmutable() ?? new \DateTimeImmutable('@0'), $last?->takenBy(), (bool) ($last?->stateBefore()['oriented'] ?? false), $steps, $measurements, $comparisons, Version::NUMBER,
        );
    }

    /** @return list<Step> the steps up to the one that handed over, the first first */
    private function line(Project $project, string $artefact): array
    {
        $line = [];
        for ($step = $project->head; $step !== null; $step = Step::query()->find($step->parent_id)) {
            $holds = in_array($artefact, array_column(Step::current($step->snapshot ?? [])['artefacts'], 'id'), true);
            if (! $holds && ($line[0] ?? null) !== null && in_array($artefact, array_column(Step::current($line[0]->snapshot ?? [])['artefacts'], 'id'), true)) {
                // The one after it was the one: all that came later goes.
                $line = [$line[0]];
            }
            array_unshift($line, $step);
        }

        return $line;
    }
}
