<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Step;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Step as OperationStep;

/** What a step computes from the state before it: the same geometry each time, to the bit. Stores that geometry, and writes no row of the ledger. */
final class StepWork
{
    /** Operations whose figures speak of the bodies as they stood then. */
    private const OF_THEIR_TIME = ['measure', 'deliver'];

    public function __construct(private readonly Workbench $workbench, private readonly Import $import, private readonly CaptureImport $captured)
    {
    }

    /**
     * @param  callable(callable(): mixed): mixed  $watch  does the work that it is given and hears a stop meanwhile
     * @return array{snapshot: array<string, mixed>, figures: array<string, mixed>, ledger?: RestoredLedger} and the steps of a project file that was opened
     */
    public function result(Step $step, Progress $progress, callable $watch): array
    {
        $working = new PartProgress($progress, 0.0, 0.85);
        $checking = new PartProgress($progress, 0.85, 1.0);
        $before = $step->stateBefore();
        if (in_array($step->operation, Ledger::ARRIVALS, true)) {
            $arrival = $step->operation === 'capture' ? $this->captured : $this->import;
            $result = $watch(fn () => $arrival($step, $before, $working));
            if (isset($result['ledger'])) {
                return ['snapshot' => Step::EMPTY_SNAPSHOT, 'figures' => ['headline' => $result['headline'], 'before' => [], 'after' => [], 'notes' => [], 'outcome' => 'reached'], 'ledger' => $result['ledger']];
            }

            return ['snapshot' => $watch(fn () => $this->workbench->withFigures($result['snapshot'], $before, $checking)), 'figures' => ['headline' => $result['headline'], 'before' => [], 'after' => $result['after'], 'notes' => $result['notes'], 'outcome' => 'reached']];
        }
        [$operation, $asked, $workpiece] = $this->asked($step, $before);
        $needs = OperationStep::given($step->operation);
        $on = $step->works_on ?? $asked->limits();
        $at = $asked->looksBackAt();
        $workpiece = $workpiece->remembering($at === null ? [] : $this->earlier($step, $at), $before['scaleError'] ?? null);
        $result = $watch(fn () => $operation($workpiece, $asked->parameters, $working));
        $snapshot = $this->workbench->merged($before, $workpiece, $result, $step, isPart: $on !== null);

        // What was measured or handed over is told from what became of it later by the bodies as they were.
        $told = ! in_array($step->operation, self::OF_THEIR_TIME, true) ? [] : [
            'measuredOn' => array_map(fn (array $row) => ['id' => $row['id'], 'blob' => $row['blob'], 'transform' => $row['transform']], array_values($snapshot['bodies'])),
            'made' => array_values(array_diff(array_column($snapshot['artefacts'], 'id'), array_column($before['artefacts'], 'id'))),
        ];

        return [
            'snapshot' => $watch(fn () => $this->workbench->withFigures($snapshot, $before, $checking, $needs === 'places')),
            'figures' => ['headline' => $result->headline, 'before' => $result->before, 'after' => $result->after + $told, 'notes' => $result->notes, 'outcome' => $result->outcome->value, 'maps' => $this->workbench->maps($result)] + ($result->everything === null || $on !== null ? [] : ['everything' => $result->everything->matrix()]),
        ];
    }

    /** Seconds that its operation estimates for itself; null where it estimates nothing. */
    public function estimate(Step $step): ?float
    {
        if (in_array($step->operation, Ledger::ARRIVALS, true)) {
            return null;
        }
        [$operation, $asked, $workpiece] = $this->asked($step, $step->stateBefore());

        return $operation->estimate($workpiece, $asked->parameters)->seconds;
    }

    /**
     * @param  array<string, mixed>  $before
     * @return array{Operation<object>, OperationStep, Workpiece} what is to be done, as asked, and what to
     */
    private function asked(Step $step, array $before): array
    {
        $operation = Catalogue::operation($step->operation);
        // What older versions called otherwise, too.
        $asked = OperationStep::of($step->operation, $step->parameters);
        $about = $operation::about();

        return [$operation, $asked, $this->workbench->workpiece($before, $step->works_on ?? $asked->limits(), OperationStep::given($step->operation), $about->readsArtefacts, $about->seesPasses)];
    }

    /**
     * The bodies as an earlier step left them, moved along with all that has moved since.
     *
     * @param  string  $at  the id of that step
     * @return list<Body>
     */
    private function earlier(Step $step, string $at): array
    {
        $since = Placement::of(1.0, RigidTransform::identity());
        // The states of the steps between, which are large, are not read.
        $columns = ['id', 'parent_id', 'operation', 'works_on', 'figures'];
        for ($one = Step::query()->find($step->parent_id, $columns); $one !== null; $one = Step::query()->find($one->parent_id, $columns)) {
            if ((string) $one->id === $at) {
                return array_map(fn (array $row) => $this->workbench->body($row)->along($since), array_values(Step::current(Step::query()->findOrFail($one->id)->snapshot ?? [])['bodies']));
            }
            $moved = $one->figures['everything'] ?? null;
            if ($moved !== null) {
                $since = Placement::fromMatrix($moved)->then($since);
            } elseif ($one->works_on === null && ! in_array($one->operation, Ledger::ARRIVALS, true) && Catalogue::operation($one->operation)::about()->together) {
                throw UnsuitableInput::because('Everything was moved since then by a step of an older version, which did not keep how; run that step again, or choose a later one.');
            }
        }
        throw UnsuitableInput::because('The step to compare with is not in the ledger any more; choose another.');
    }
}
