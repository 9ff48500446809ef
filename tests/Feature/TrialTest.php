<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Step;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Steps that are tried first: they change nothing until they are kept. */
final class TrialTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function try(Project $project, string $operation, array $parameters = []): int
    {
        return $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters, 'trial' => true])->assertAccepted()->json('id');
    }

    #[Test]
    public function a_trial_is_shown_beside_the_project_and_changes_nothing(): void
    {
        $project = $this->withOpenBall();
        $before = $this->state($project);
        $this->try($project, 'fill-holes', ['shape' => 'flat']);
        $after = $this->state($project->refresh());
        self::assertSame($before['snapshot'], $after['snapshot']);
        self::assertSame($before['steps'], $after['steps']);
        self::assertSame('done', $after['trial']['step']['state']);
        self::assertSame(0, $after['trial']['bodies'][0]['figures']['holeCount']);
        self::assertNotSame($before['snapshot']['bodies'][0]['blob'], $after['trial']['bodies'][0]['blob']);
        $this->get("/api/projects/$project->id/blobs/".$after['trial']['bodies'][0]['blob'])->assertOk();
    }

    #[Test]
    public function what_was_tried_is_told_as_it_was_sent_also_without_any_parameters(): void
    {
        $project = $this->withOpenBall();
        $this->try($project, 'repair');
        self::assertStringContainsString('"operation":"repair"', $body = (string) $this->getJson("/api/projects/$project->id")->getContent());
        self::assertStringContainsString('"parameters":{}', $body);
        self::assertStringNotContainsString('"parameters":[]', $body);
        $this->try($project, 'fill-holes', ['shape' => 'flat']);
        self::assertStringContainsString('"parameters":{"shape":"flat"}', (string) $this->getJson("/api/projects/$project->id")->getContent());
    }

    #[Test]
    public function keeping_a_trial_puts_it_in_the_ledger_without_computing_again_and_undo_takes_it_back(): void
    {
        $project = $this->withOpenBall();
        $id = $this->try($project, 'fill-holes', ['shape' => 'flat']);
        $blob = $this->state($project->refresh())['trial']['bodies'][0]['blob'];
        $this->postJson("/api/projects/$project->id/steps/$id/keep")->assertOk();
        $state = $this->state($project->refresh());
        self::assertSame([$blob, null, 'fill-holes'], [$state['snapshot']['bodies'][0]['blob'], $state['trial'], $state['steps'][1]['operation']]);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        self::assertSame('set-aside', $this->state($project->refresh())['steps'][1]['state']);
    }

    #[Test]
    public function a_new_trial_replaces_the_old_one_and_forgetting_leaves_none(): void
    {
        $project = $this->withOpenBall();
        $first = $this->try($project, 'fill-holes');
        $second = $this->try($project, 'decimate', ['ratio' => 0.5]);
        self::assertNull(Step::query()->find($first));
        self::assertSame($second, $this->state($project->refresh())['trial']['step']['id']);
        $this->deleteJson("/api/projects/$project->id/trials")->assertNoContent();
        self::assertNull($this->state($project->refresh())['trial']);
        self::assertSame(1, $project->steps()->count());
    }

    #[Test]
    public function a_trial_of_a_project_that_has_changed_since_is_neither_shown_nor_kept(): void
    {
        $project = $this->withOpenBall();
        $id = $this->try($project, 'decimate', ['ratio' => 0.5]);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => []])->assertAccepted();
        self::assertNull($this->state($project->refresh())['trial']);
        $this->postJson("/api/projects/$project->id/steps/$id/keep")->assertConflict()->assertJsonFragment(['message' => 'The project has changed since this was tried; try it again.']);
        $this->postJson("/api/projects/$project->id/steps/".$project->head_step_id.'/keep')->assertConflict();
    }

    #[Test]
    public function a_body_is_compared_with_itself_as_an_earlier_step_left_it_also_after_everything_has_moved(): void
    {
        $project = $this->withOpenBall();
        $import = (string) $project->head_step_id;
        foreach ([['fill-holes', ['shape' => 'flat']], ['shift', ['x' => 250.0]], ['confirm-scale', []], ['turn', ['axis' => 'y', 'angle' => 90.0]]] as [$operation, $parameters]) {
            $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        }
        $filled = (string) Step::query()->where('project_id', $project->id)->where('operation', 'fill-holes')->value('id');
        $compared = function (string $revision) use ($project): array {
            $this->try($project->refresh(), 'compare', ['to' => 'earlier', 'revision' => $revision]);

            return $this->state($project->refresh())['trial']['step'];
        };
        [$first] = $compared($import)['figures']['after']['comparisons'];
        self::assertSame('earlier', $first['to']);
        // A flat lid closes the ball: only the lid lies off what was there, and nothing for having been moved.
        self::assertGreaterThan(0.1, $first['max']);
        self::assertLessThan(1e-6, $compared($filled)['figures']['after']['comparisons'][0]['max']);
        $this->postJson("/api/projects/$project->id/undo", ['to' => (int) $filled])->assertOk();
        $late = $compared((string) $project->steps()->where('operation', 'turn')->value('id'));
        self::assertSame('failed', $late['state']);
        self::assertStringContainsString('not in the ledger any more', $late['message']);
    }

    #[Test]
    public function nobody_waits_for_a_trial_and_a_step_ends_it(): void
    {
        $project = $this->withOpenBall();
        $running = $project->steps()->create(['user_id' => $project->owner_id, 'operation' => 'decimate', 'parameters' => [], 'trial' => true, 'state' => 'running', 'follow_ups' => []]);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'fill-holes', 'parameters' => ['shape' => 'flat']])->assertAccepted();
        self::assertSame('done', $this->state($project->refresh())['steps'][1]['state']);
        self::assertTrue($running->refresh()->stop_asked);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
    }

    #[Test]
    public function a_failed_trial_says_why_and_leaves_the_ledger_clean(): void
    {
        $project = $this->withOpenBall();
        $this->try($project, 'remove-strays');
        $state = $this->state($project->refresh());
        self::assertSame('failed', $state['trial']['step']['state']);
        self::assertStringContainsString('no points', $state['trial']['step']['message']);
        self::assertCount(1, $state['steps']);
    }

    #[Test]
    public function nobody_keeps_or_forgets_trials_of_others(): void
    {
        $project = $this->withOpenBall();
        $id = $this->try($project, 'fill-holes');
        $this->actingAs($this->user('bert'));
        $this->postJson("/api/projects/$project->id/steps/$id/keep")->assertForbidden();
        $this->deleteJson("/api/projects/$project->id/trials")->assertForbidden();
    }
}
