<?php

declare(strict_types=1);

namespace App\Services;

use App\Models\Project;
use App\Models\Step;
use Emberstone\Core\Foundation\Format;

/** Places what fixed heads capture, as it comes in, by the fixture that a project applies to later captures too. */
final readonly class StandingFixture
{
    /** Steps that bring in captures. */
    private const CAPTURES = [...Ledger::ARRIVALS, 'simulate'];

    public function __construct(private Ledger $ledger)
    {
    }

    /**
     * Puts a step in the queue that places the passes a step has brought in; or tells in that step's notes why they are left where they are.
     *
     * @param  list<string>  $before  ids of the passes that were there before the step
     */
    public function follow(Project $project, Step $step, array $before): void
    {
        $applied = in_array($step->operation, self::CAPTURES, true) ? $this->applied($project) : null;
        $came = array_values(array_filter($step->snapshot['passes'] ?? [], fn (array $pass) => ! in_array($pass['id'], $before, true)));
        if ($applied === null || $came === [] || $step->user === null) {
            return;
        }
        $heads = array_column($applied->parameters['fixture']['heads'], 'name');
        if (count($came) % count($heads) === 0 || array_diff(array_column($came, 'name'), $heads) === []) {
            $this->ledger->add($project, $step->user, 'apply-fixture', $applied->parameters, array_column($came, 'id'));

            return;
        }
        $notes = [...$step->figures['notes'] ?? [], sprintf('Not placed by the fixture: %s came in, and it has %s.', Format::many(count($came), 'pass', 'passes'), Format::many(count($heads), 'head'))];
        $step->update(['figures' => ['notes' => $notes] + ($step->figures ?? [])]);
    }

    /** The last fixture that was applied, if it is for later captures too. */
    private function applied(Project $project): ?Step
    {
        $line = array_filter($this->ledger->line($project), fn (Step $step) => $step->operation === 'apply-fixture' && $step->state === 'done');
        $last = end($line);

        return $last !== false && ($last->parameters['later'] ?? false) === true ? $last : null;
    }
}
