<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** The shapes of a body as a thing of a project: found by a step, corrected by others, used for datums, and told apart from what was found on an earlier surface. */
final class ShapesTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters = []): void
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        self::assertSame([$operation, 'done'], [$project->refresh()->head?->operation, $project->head?->state], (string) $project->steps()->latest('id')->first()?->message);
    }

    /** @return array<string, mixed> */
    private function snapshot(Project $project): array
    {
        return $this->state($project->refresh())['snapshot'];
    }

    /**
     * @param  array<string, mixed>  $artefact
     * @return array{labels: string, shapes: list<array<string, mixed>>}
     */
    private function held(Project $project, array $artefact): array
    {
        return json_decode($this->get("/api/projects/$project->id/blobs/{$artefact['blob']}")->assertOk()->streamedContent(), true);
    }

    #[Test]
    public function a_face_of_the_stored_body_has_its_shape_and_the_shape_becomes_a_datum(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'find-shapes');
        $snapshot = $this->snapshot($project);
        [$shapes] = $snapshot['artefacts'];
        self::assertSame(['shapes', 1, $snapshot['bodies'][0]['id'], $snapshot['bodies'][0]['blob']], [$shapes['kind'], $shapes['parts'], $shapes['bodyId'], $shapes['surface']]);
        $held = $this->held($project, $shapes);
        self::assertSame('sphere', $held['shapes'][0]['kind']);
        self::assertSame(2 * $snapshot['bodies'][0]['faces'], strlen((string) base64_decode($held['labels'], true)));
        $this->getJson("/api/projects/$project->id/artefacts/{$shapes['id']}/download?format=dxf")->assertNotFound();

        $this->step($project, 'add-datum', ['name' => 'Ball', 'shape' => ['find' => 'found', 'id' => 'shape-1']]);
        // As STEP: the ball with its rim as a face, and the datum under the name that was given to it.
        $project->update(['labels' => [$this->snapshot($project)['datums'][0]['id'] => 'Kugel für Ada']]);
        $file = (string) file_get_contents($this->get("/api/projects/$project->id/bodies/{$snapshot['bodies'][0]['id']}/download?format=step")->assertOk()->baseResponse->getFile()->getPathname());
        self::assertStringContainsString("'Kugel f\\X2\\00FC\\X0\\r Ada'", $file);
        self::assertSame([2, 2], [substr_count($file, '=SPHERICAL_SURFACE('), substr_count($file, '=OPEN_SHELL(')]);
        [$datum] = $this->snapshot($project)['datums'];
        self::assertSame(['sphere', $snapshot['bodies'][0]['id']], [$datum['kind'], $datum['bodyId']]);
        self::assertEqualsWithDelta(10.0, $datum['radius'], 0.01);
    }

    #[Test]
    public function found_again_they_take_the_place_of_those_before_and_what_they_were_found_on_is_known(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'find-shapes');
        $first = $this->snapshot($project)['artefacts'][0];
        // A step that does not look into them leaves them as they are, and goes on without them.
        $this->step($project, 'decimate', ['ratio' => 0.5]);
        $snapshot = $this->snapshot($project);
        self::assertSame([$first['blob'], $first['surface']], [$snapshot['artefacts'][0]['blob'], $snapshot['artefacts'][0]['surface']]);
        self::assertNotSame($first['surface'], $snapshot['bodies'][0]['blob']);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'split-shape', 'parameters' => ['shapes' => ['shape-1']]])->assertAccepted();
        self::assertStringContainsString('has changed since its shapes were found', (string) $project->steps()->latest('id')->first()?->message);

        $this->step($project, 'find-shapes');
        $again = $this->snapshot($project);
        self::assertCount(1, $again['artefacts']);
        self::assertSame([$first['id'], $first['name'], $again['bodies'][0]['blob']], [$again['artefacts'][0]['id'], $again['artefacts'][0]['name'], $again['artefacts'][0]['surface']]);
        // A datum looks into them and changes nothing.
        $this->step($project, 'add-datum', ['name' => 'Ball', 'shape' => ['find' => 'found', 'id' => 'shape-1']]);
        self::assertSame($again['artefacts'], $this->snapshot($project)['artefacts']);
    }

    #[Test]
    public function states_of_an_earlier_version_call_their_parts_curves(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'section', ['plane' => 'YZ']);
        $head = $project->head;
        assert($head !== null);
        $snapshot = (array) $head->snapshot;
        $snapshot['artefacts'][0] = array_diff_key($snapshot['artefacts'][0], ['parts' => 0, 'surface' => 0]) + ['curves' => 1];
        $head->update(['snapshot' => $snapshot]);
        $row = $this->snapshot($project)['artefacts'][0];
        self::assertSame([1, null], [$row['parts'], $row['surface']]);
        $this->step($project, 'shift', ['x' => 5.0]);
        self::assertSame(1, $this->snapshot($project)['artefacts'][0]['parts']);
    }
}
