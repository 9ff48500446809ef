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
    /**
     * @param  Step  $by  the step that handed over
     * @return string the bytes of a `pdf`, `html` or `zip`
     */
    public function bytes(Step $by, HandedOver $delivery, string $format): string
    {
        $context = self::context($by);
        if ($format === 'zip') {
            return Package::zip(Package::files($delivery, $context, null), $delivery, $context);
        }
        $html = ReportPage::html($delivery, $context);

        return $format === 'pdf' ? ReportPdf::of($html, $context->at) : $html;
    }

    /** What the ledger knows of it: who, when, and by which steps it came about. */
    public static function context(Step $by): HandoverContext
    {
        $labels = ['import' => 'Bring in', 'capture' => 'Live capture'] + array_column(Catalogue::describe(), 'label', 'name');
        $steps = $measurements = $comparisons = [];
        foreach (self::line($by) as $step) {
            $figures = $step->figures ?? [];
            $steps[] = ['label' => $labels[$step->operation] ?? $step->operation, 'what' => (string) ($figures['headline'] ?? ''), 'notes' => array_values(array_map(strval(...), $figures['notes'] ?? []))];
            array_push($measurements, ...array_values($figures['after']['measurements'] ?? []));
            array_push($comparisons, ...array_values($figures['after']['comparisons'] ?? []));
        }

        return new HandoverContext($by->created_at?->toImmutable() ?? new \DateTimeImmutable('@0'), $by->takenBy(), (bool) $by->stateBefore()['oriented'], $steps, $measurements, $comparisons, Version::NUMBER);
    }

    /** The step in effect that handed something over: the first of the ledger that has it. */
    public static function stepOf(Project $project, string $artefact): ?Step
    {
        $by = null;
        for ($step = $project->head; $step !== null && in_array($artefact, array_column(Step::current($step->snapshot ?? [])['artefacts'], 'id'), true); $step = Step::query()->find($step->parent_id)) {
            $by = $step;
        }

        return $by;
    }

    /** @return list<Step> the steps up to this one, the first first */
    private static function line(Step $last): array
    {
        $line = [];
        for ($step = $last; $step !== null; $step = Step::query()->find($step->parent_id)) {
            array_unshift($line, $step);
        }

        return $line;
    }
}
