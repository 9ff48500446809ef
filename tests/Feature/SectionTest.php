<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Sections as things of a project: drawn by a step, shown from a blob, moved with their body, delivered, discarded and freed. */
final class SectionTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters): void
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        self::assertSame([$operation, 'done'], [$project->refresh()->head?->operation, $project->head?->state], (string) $project->steps()->latest('id')->first()?->message);
    }

    /** @return list<array<string, mixed>> */
    private function artefacts(Project $project): array
    {
        return $this->state($project->refresh())['snapshot']['artefacts'];
    }

    #[Test]
    public function it_is_kept_with_its_curves_follows_its_body_and_is_delivered_in_the_units_of_the_brief(): void
    {
        $project = $this->withOpenBall();
        $project->update(['brief' => ['unit' => 'in'] + $project->brief]);
        $this->step($project, 'section', ['plane' => 'XY', 'count' => 2, 'spacing' => 1.0, 'fit' => 0.05]);
        [$section] = $this->artefacts($project);
        self::assertStringStartsWith('Section of ', $section['name']);
        self::assertSame(2, $section['parts']);
        $held = json_decode($this->get("/api/projects/$project->id/blobs/{$section['blob']}")->assertOk()->streamedContent(), true);
        self::assertCount(2, $held['planes']);
        self::assertTrue($held['planes'][0]['curves'][0]['closed']);
        // The ball has a radius of 10 mm; the open top is not met.
        $size = fn (): float => (float) preg_replace('/.*<svg[^>]* width="([\d.]+)mm".*/s', '$1', (string) $this->get("/api/projects/$project->id/artefacts/{$section['id']}/download?format=svg")->assertOk()->getContent()) - 10.0;
        $before = $size();
        self::assertGreaterThan(15.0, $before);
        $dxf = $this->get("/api/projects/$project->id/artefacts/{$section['id']}/download?format=dxf")->assertOk()->assertHeader('Content-Disposition', "attachment; filename=\"$project->name, section of ball.dxf\"");
        self::assertStringContainsString("\$INSUNITS\n70\n1\n", (string) $dxf->getContent());

        $lines = explode("\r\n", trim((string) $this->get("/api/projects/$project->id/artefacts/{$section['id']}/download?format=csv")->assertOk()->getContent()));
        self::assertSame('plane,curve,closed,x (in),y (in),z (in)', $lines[0]);
        self::assertMatchesRegularExpression('/^"XY",1,yes,/', $lines[1]);
        self::assertEqualsWithDelta(10.0 / 25.4, hypot(...array_map(floatval(...), array_slice(str_getcsv($lines[1], ',', '"', ''), 3, 2))), 0.01, 'the ball is cut through its middle');

        $this->step($project, 'scale', ['factor' => 2.0]);
        self::assertEqualsWithDelta(2.0 * $before, $size(), 1e-4);
        $this->step($project, 'shift', ['x' => 5.0]);
        self::assertEqualsWithDelta(5.0, $this->artefacts($project)[0]['transform'][3], 1e-12);
        self::assertSame($section['blob'], $this->artefacts($project)[0]['blob']);
    }

    #[Test]
    public function heights_are_kept_as_pictures_and_delivered_as_picture_and_points_of_either_side(): void
    {
        $project = $this->withOpenBall();
        $project->update(['brief' => ['unit' => 'cm'] + $project->brief]);
        $this->step($project, 'height-map', ['along' => 'X', 'pixel' => 0.5, 'side' => 'back']);
        [$heights] = $this->artefacts($project);
        self::assertSame(['height-map', 1], [$heights['kind'], $heights['parts']]);
        $address = "/api/projects/$project->id/artefacts/{$heights['id']}/download";
        $png = (string) $this->get("$address?format=png")->assertOk()->assertHeader('Content-Type', 'image/png')->assertHeader('Content-Disposition', "attachment; filename=\"$project->name, heights of ball, back.png\"")->getContent();
        // The ball of 20 mm without its top, which faces of it reach over: 40 pixels wide, 16 bits of grey.
        self::assertSame([40, 38, 16, 0], array_values(unpack('Nwidth/Nheight/Cbits/Ccolour', $png, 16) ?: []));
        $points = array_map(fn (string $line) => array_map(floatval(...), explode(' ', $line)), array_filter(explode("\n", (string) $this->get("$address?format=xyz")->assertOk()->getContent()), fn (string $line) => preg_match('/^-?[\d.]/', $line) === 1));
        self::assertGreaterThan(800, count($points));
        self::assertEqualsWithDelta(1.0, max(array_column($points, 0)), 0.01, 'centimetres; the back, seen along X, is where X is most');
        self::assertGreaterThan(-0.01, min(array_column($points, 0)));
        $this->getJson("$address?format=png&side=front")->assertNotFound();
        $this->getJson("$address?format=dxf")->assertNotFound();
    }

    #[Test]
    public function a_second_one_has_a_name_of_its_own_and_a_discarded_one_comes_back_by_undo(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'section', ['around' => 'Z', 'count' => 3]);
        $this->step($project, 'section', ['plane' => 'YZ']);
        [$first, $second] = $this->artefacts($project);
        self::assertSame("{$first['name']}-2", $second['name']);
        $this->step($project, 'discard', ['on' => [$first['id']]]);
        self::assertSame([$second['id']], array_column($this->artefacts($project), 'id'));
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        self::assertSame([$first['id'], $second['id']], array_column($this->artefacts($project), 'id'));
        $this->deleteJson("/api/projects/$project->id")->assertNoContent();
        self::assertFalse(DB::table('blobs')->whereIn('hash', [$first['blob'], $second['blob']])->exists());
    }

    #[Test]
    public function states_of_an_earlier_version_know_no_sections_and_take_one(): void
    {
        $project = $this->withOpenBall();
        $head = $project->head;
        assert($head !== null);
        $head->update(['snapshot' => array_diff_key((array) $head->snapshot, ['artefacts' => 0])]);
        self::assertSame([], $this->artefacts($project));
        $this->step($project, 'section', ['plane' => 'YZ']);
        self::assertCount(1, $this->artefacts($project));
    }

    #[Test]
    public function what_goes_with_a_body_goes_with_its_part_when_it_is_split_and_with_the_whole_when_it_is_joined(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'section', ['plane' => 'YZ']);
        $this->step($project, 'add-datum', ['name' => 'low', 'kind' => 'plane', 'seed' => [0.0, 0.0, -10.0], 'angle' => 15.0]);
        $this->step($project, 'split', ['plane' => ['point' => [0, 0, -3], 'normal' => [0, 0, 1]]]);
        $snapshot = $this->state($project->refresh())['snapshot'];
        $ids = array_column($snapshot['bodies'], 'id', 'name');
        self::assertCount(2, $ids);
        self::assertContains($snapshot['artefacts'][0]['bodyId'], $ids);
        $datum = array_column($snapshot['datums'], null, 'name')['low'];
        self::assertSame($ids[array_values(preg_grep('/back part$/', array_keys($ids)) ?: [])[0]], $datum['bodyId']);

        $this->step($project, 'join', ['stitch' => 0.01]);
        $snapshot = $this->state($project->refresh())['snapshot'];
        self::assertCount(1, $snapshot['bodies']);
        self::assertSame(1, $snapshot['bodies'][0]['figures']['holeCount']);
        self::assertSame($snapshot['bodies'][0]['id'], $snapshot['artefacts'][0]['bodyId']);
        self::assertSame($snapshot['bodies'][0]['id'], array_column($snapshot['datums'], null, 'name')['low']['bodyId']);
    }
}
