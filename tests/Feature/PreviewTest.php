<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Tests\Support\ScanBuilder;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/** Short questions that are answered at once, and what rights they need. */
final class PreviewTest extends TestCase
{
    /**
     * @param  array<string, mixed>  $body
     * @return TestResponse<\Illuminate\Http\Response>
     */
    private function ask(Project $project, string $what, array $body): TestResponse
    {
        return $this->postJson("/api/projects/$project->id/$what", $body);
    }

    #[Test]
    #[TestWith(['sphere', 0.02])]
    #[TestWith(['plane', 1.0])]
    public function a_datum_is_fitted_to_the_area_around_a_face(string $kind, float $rms): void
    {
        $project = $this->withOpenBall();
        $body = $project->snapshot()['bodies'][0]['id'];
        $answer = $this->ask($project, 'datum-preview', ['body' => $body, 'face' => 100, 'kind' => $kind, 'angle' => 30])->assertOk()->json();
        self::assertSame($kind, $answer['datum']['kind']);
        self::assertLessThan($rms, $answer['datum']['rms']);
        self::assertContains(100, $answer['faces']);
        if ($kind === 'sphere') {
            self::assertEqualsWithDelta(10.0, $answer['datum']['radius'], 0.1);
            foreach ($answer['datum']['origin'] as $v) {
                self::assertEqualsWithDelta(0.0, $v, 0.1);
            }
        }
    }

    #[Test]
    public function a_datum_is_fitted_to_brushed_faces_and_nonsense_is_refused(): void
    {
        $project = $this->withOpenBall();
        $body = $project->snapshot()['bodies'][0]['id'];
        $answer = $this->ask($project, 'datum-preview', ['body' => $body, 'ranges' => [[10, 40], [90, 120]], 'kind' => 'sphere'])->assertOk()->json();
        self::assertSame([...range(10, 40), ...range(90, 120)], $answer['faces']);
        self::assertCount(62, $answer['outside']);
        self::assertEqualsWithDelta(10.0, $answer['datum']['radius'], 0.1);
        foreach ([[[0, 9_999_999]], [[5, 2]], ['all'], [], 'all', [[0, 3]]] as $bad) {
            $this->ask($project, 'datum-preview', ['body' => $body, 'ranges' => $bad, 'kind' => 'sphere'])->assertUnprocessable();
        }
    }

    #[Test]
    public function the_kind_that_suits_the_surface_is_told_and_a_fit_keeps_to_another_datum(): void
    {
        $project = $this->withOpenBall();
        $at = ['body' => $project->snapshot()['bodies'][0]['id'], 'face' => 100, 'angle' => 30];
        $kind = $this->ask($project, 'datum-kind', $at)->assertOk()->json();
        self::assertSame('sphere', $kind['kind']);
        self::assertLessThan(0.1, $kind['rms']['sphere']);
        $this->ask($project, 'steps', ['operation' => 'add-datum', 'parameters' => ['name' => 'up', 'kind' => 'line', 'typed' => ['origin' => [0, 0, 0], 'direction' => [0, 0.6, 0.8]]]])->assertAccepted();
        $held = $this->ask($project->refresh(), 'datum-preview', ['kind' => 'plane', 'hold' => ['how' => 'square', 'to' => 'up']] + $at)->assertOk()->json('datum');
        self::assertEqualsWithDelta(1.0, abs(0.6 * $held['direction'][1] + 0.8 * $held['direction'][2]), 1e-9);
        $this->ask($project, 'datum-preview', ['kind' => 'plane', 'hold' => ['how' => 'square', 'to' => 'down']] + $at)->assertUnprocessable()->assertJsonPath('parameter', 'hold');
        $this->ask($project, 'datum-kind', ['face' => -1] + $at)->assertUnprocessable();
    }

    #[Test]
    public function clicks_say_what_can_be_measured_of_them_and_what_it_comes_to(): void
    {
        $project = $this->withOpenBall();
        $click = ['body' => $project->snapshot()['bodies'][0]['id'], 'face' => 100, 'at' => [0, 0, 10]];
        $one = $this->ask($project, 'measure-preview', ['of' => [$click]])->assertOk()->json();
        self::assertSame(['sphere', ['diameter', 'radius'], 'diameter', null], [$one['things'][0]['fit'], $one['offered'], $one['kind'], $one['why']]);
        self::assertStringStartsWith('20.0', $one['measured']['words']);
        self::assertCount(2, $one['measured']['line']);
        $this->ask($project, 'steps', ['operation' => 'add-datum', 'parameters' => ['name' => 'table', 'kind' => 'plane', 'typed' => ['origin' => [0, 0, -14], 'direction' => [0, 0, 1]]]])->assertAccepted();
        $datum = $project->refresh()->snapshot()['datums'][0]['id'];
        $two = $this->ask($project, 'measure-preview', ['of' => [$click, $datum]])->assertOk()->json();
        self::assertSame('distance', $two['kind']);
        self::assertEqualsWithDelta(14.0, (float) $two['measured']['words'], 0.1);
        // The place itself, where that was said.
        $place = $this->ask($project, 'measure-preview', ['of' => [['fit' => 'point'] + $click, $datum]])->assertOk()->json();
        self::assertStringStartsWith('24.000', $place['measured']['words']);
        self::assertStringContainsString('no direction', (string) $this->ask($project, 'measure-preview', ['of' => [['fit' => 'point'] + $click, $datum], 'kind' => 'angle'])->assertOk()->json('why'));
        $this->ask($project, 'measure-preview', ['of' => [['fit' => 'torus'] + $click]])->assertUnprocessable();
        $this->ask($project, 'measure-preview', ['of' => [['face' => 1]]])->assertUnprocessable();
        $this->ask($project, 'measure-preview', ['of' => ['gone']])->assertUnprocessable();
        // As a step it is known on which bodies it was taken.
        $this->ask($project, 'steps', ['operation' => 'measure', 'parameters' => ['kind' => 'diameter', 'of' => [['at' => [0, 0, 10], 'fit' => 'sphere']]]])->assertAccepted();
        $after = $project->refresh()->head?->figures['after'] ?? [];
        self::assertEqualsWithDelta(20.0, $after['measurements'][0]['value'], 0.05);
        self::assertSame($project->snapshot()['bodies'][0]['blob'], $after['measuredOn'][0]['blob']);
    }

    #[Test]
    public function a_datum_question_without_sense_is_refused_in_words(): void
    {
        $project = $this->withOpenBall();
        $body = $project->snapshot()['bodies'][0]['id'];
        $good = ['body' => $body, 'face' => 1, 'kind' => 'plane', 'angle' => 20];
        $this->ask($project, 'datum-preview', ['face' => 9_999_999] + $good)->assertUnprocessable()->assertJsonFragment(['message' => 'That face is not there any more; pick again.']);
        $this->ask($project, 'datum-preview', ['body' => '0a0a0a0a-0a0a-4a0a-8a0a-0a0a0a0a0a0a'] + $good)->assertNotFound();
        foreach ([['kind' => 'torus'], ['angle' => 0], ['angle' => 'wide'], ['face' => -1], ['body' => 'ball']] as $bad) {
            $this->ask($project, 'datum-preview', $bad + $good)->assertUnprocessable();
        }
    }

    #[Test]
    public function pairs_say_where_they_would_bring_what_moves_and_how_well(): void
    {
        $project = $this->withOpenBall();
        $shift = [3.0, -2.0, 7.0];
        $places = [[0.0, 0.0, 0.0], [10.0, 0.0, 0.0], [0.0, 12.0, 0.0], [2.0, 3.0, 9.0]];
        $pairs = array_map(fn (array $at) => ['from' => $at, 'to' => [$at[0] + $shift[0], $at[1] + $shift[1], $at[2] + $shift[2]]], $places);
        $answer = $this->ask($project, 'pair-preview', ['pairs' => $pairs, 'moving' => $project->snapshot()['bodies'][0]['id']])->assertOk()->json();
        self::assertCount(4, $answer['residuals']);
        self::assertLessThan(1e-9, max($answer['residuals']));
        self::assertEqualsWithDelta(16, count($answer['transform']), 4);
        self::assertEqualsWithDelta(10.0, sqrt(array_sum(array_map(fn (float $v) => $v * $v, $answer['hint']))), 0.05, 'on the ball, not in its box');
        $pairs[3]['to'][2] += 1.0;
        $worse = $this->ask($project, 'pair-preview', ['pairs' => $pairs])->assertOk()->json();
        self::assertGreaterThan(0.1, max($worse['residuals']));
        self::assertNull($worse['hint']);
        $inLine = array_map(fn (int $k) => ['from' => [1.0 * $k, 0.0, 0.0], 'to' => [1.0 * $k, 1.0, 0.0]], [0, 1, 2]);
        $this->ask($project, 'pair-preview', ['pairs' => $inLine])->assertUnprocessable();
        $this->ask($project, 'pair-preview', ['pairs' => [['from' => [1, 2], 'to' => [0, 0, 0]]]])->assertUnprocessable();
    }

    #[Test]
    public function one_more_pick_is_asked_for_on_what_is_still_there(): void
    {
        $project = $this->withOpenBall();
        // A row of 100 points along x, of which the far half is cut away.
        $cloud = "ply\nformat ascii 1.0\nelement vertex 100\nproperty float x\nproperty float y\nproperty float z\nend_header\n".implode('', array_map(fn (int $k) => "$k ".($k % 7)." 0\n", range(0, 99)));
        $this->ask($project, 'steps', ['operation' => 'import', 'parameters' => ['uploads' => [$this->upload($project, 'pass.ply', $cloud)], 'unit' => 'mm']])->assertAccepted();
        $pass = $project->refresh()->snapshot()['passes'][0]['id'];
        $pairs = array_map(fn (array $at) => ['from' => $at, 'to' => $at], [[0, 0, 0], [6, 6, 0], [3, 0, 0]]);
        $hint = fn (): array => $this->ask($project->refresh(), 'pair-preview', ['pairs' => $pairs, 'moving' => $pass])->assertOk()->json('hint');
        self::assertGreaterThan(60, $hint()[0]);
        $this->ask($project, 'steps', ['operation' => 'cut-away', 'parameters' => ['selection' => [['target' => $pass, 'ranges' => [[50, 99]]]]]])->assertAccepted();
        self::assertSame(50, $project->refresh()->snapshot()['passes'][0]['kept']);
        self::assertLessThan(50, $hint()[0]);
    }

    #[Test]
    public function lengths_are_balanced_before_anything_is_scaled(): void
    {
        $project = $this->withOpenBall();
        $lengths = [['from' => [0, 0, 0], 'to' => [10, 0, 0], 'actual' => 10.2], ['from' => [0, 0, 0], 'to' => [0, 20, 0], 'actual' => 20.4]];
        $answer = $this->ask($project, 'length-preview', ['lengths' => $lengths])->assertOk()->json();
        self::assertEqualsWithDelta(1.02, $answer['factor'], 1e-12);
        self::assertCount(2, $answer['lengths']);
        $this->ask($project, 'length-preview', ['lengths' => [['from' => 'Base', 'to' => [0, 0, 0], 'actual' => 3]]])->assertUnprocessable()->assertJsonFragment(['message' => 'Lengths cannot find "Base": there are no datums yet; add one first.']);
    }

    #[Test]
    public function a_frame_is_shown_with_its_locks_before_it_is_set(): void
    {
        $project = $this->withOpenBall();
        $datum = ['name' => 'Base', 'kind' => 'plane', 'points' => [[0, 0, -5], [4, 0, -5], [0, 4, -5]]];
        $this->ask($project, 'steps', ['operation' => 'add-datum', 'parameters' => $datum])->assertAccepted();
        $answer = $this->ask($project->refresh(), 'frame-preview', ['first' => 'Base'])->assertOk()->json();
        self::assertCount(6, $answer['locks']);
        self::assertSame(['turnX', 'turnY', 'shiftZ'], array_values(array_intersect(['turnX', 'turnY', 'shiftZ'], array_keys(array_filter($answer['locks'])))));
        $this->ask($project, 'frame-preview', ['first' => 'Nowhere'])->assertUnprocessable();
    }

    #[Test]
    public function an_estimate_names_what_will_not_fit(): void
    {
        $project = $this->withOpenBall();
        $cheap = $this->ask($project, 'estimate', ['operation' => 'fill-holes', 'parameters' => []])->assertOk()->json();
        self::assertGreaterThan(0.0, $cheap['seconds'][0]);
        self::assertNull($cheap['refusal']);
        $this->ask($project, 'estimate', ['operation' => 'fly'])->assertUnprocessable();
        $this->ask($project, 'estimate', ['operation' => 'fill-holes', 'parameters' => ['maxDiameter' => -1]])->assertUnprocessable();
    }

    #[Test]
    public function a_stand_in_holds_every_so_manyth_point_of_what_the_project_has(): void
    {
        $project = $this->withOpenBall();
        $path = tempnam(sys_get_temp_dir(), 'cloud').'.ply';
        Formats::write($path, ScanBuilder::passes(1, 30)[0]->cloud());
        $upload = $this->upload($project, 'pass.ply', (string) file_get_contents($path));
        unlink($path);
        $this->ask($project, 'steps', ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();
        $row = $project->refresh()->snapshot()['passes'][0];
        $file = $this->get("/api/projects/$project->id/blobs/{$row['blob']}/every/7")->assertOk()->baseResponse;
        self::assertInstanceOf(\Symfony\Component\HttpFoundation\BinaryFileResponse::class, $file);
        $cloud = Blob::decode((string) file_get_contents($file->getFile()->getPathname()));
        self::assertInstanceOf(PointCloud::class, $cloud);
        self::assertSame(intdiv($row['points'] + 6, 7), $cloud->count());
        foreach (['every/1', 'every/1001'] as $out) {
            $this->get("/api/projects/$project->id/blobs/{$row['blob']}/$out")->assertNotFound();
        }
        $this->get("/api/projects/$project->id/blobs/".str_repeat('ab', 32).'/every/2')->assertNotFound();
    }

    /**
     * Brings in looks of fixed heads at a target, as files.
     *
     * @param  list<int>  $heads
     */
    private function capture(Project $project, array $heads, string $name = 'head'): void
    {
        $uploads = [];
        foreach ($heads as $k) {
            $path = tempnam(sys_get_temp_dir(), 'head').'.ply';
            Formats::write($path, ScanBuilder::ballsFromTwoSides(6.0)[$k]->cloud());
            $uploads[] = $this->upload($project, "$name-$k.ply", (string) file_get_contents($path));
            unlink($path);
        }
        $this->ask($project, 'steps', ['operation' => 'import', 'parameters' => ['uploads' => $uploads, 'unit' => 'mm']])->assertAccepted();
    }

    #[Test]
    public function a_fixture_applied_to_later_captures_too_places_them_as_they_come_in_and_nothing_else(): void
    {
        $project = $this->withOpenBall();
        $this->capture($project, [0, 1]);
        $this->ask($project, 'steps', ['operation' => 'solve-fixture', 'parameters' => ['diameter' => 12.0, 'balls' => ScanBuilder::BALLS]])->assertAccepted();
        $fixture = $this->getJson('/api/fixtures')->json('0.fixture');
        $passes = fn (): array => $this->state($project->refresh())['snapshot']['passes'];
        $steps = fn (): array => array_column($this->state($project->refresh())['steps'], 'operation');

        // Once: what comes in later stays as it came.
        $this->ask($project, 'steps', ['operation' => 'apply-fixture', 'parameters' => ['fixture' => $fixture]])->assertAccepted();
        $this->capture($project, [0, 1]);
        self::assertSame('import', array_slice($steps(), -1)[0]);
        $this->ask($project, 'undo', [])->assertOk();

        $this->ask($project, 'steps', ['operation' => 'apply-fixture', 'parameters' => ['fixture' => $fixture, 'later' => true]])->assertAccepted();
        $this->ask($project, 'steps', ['operation' => 'move', 'parameters' => ['moving' => $passes()[0]['id'], 'shiftX' => 5.0]])->assertAccepted();
        $moved = $passes()[0]['transform'];
        $this->capture($project, [0, 1]);
        self::assertSame(['import', 'apply-fixture'], array_slice($steps(), -2));
        self::assertSame([$fixture['heads'][0]['transform'], $fixture['heads'][1]['transform']], array_column(array_slice($passes(), 2), 'transform'));
        self::assertSame($moved, $passes()[0]['transform'], 'what was there before stays where it was put');

        // A look of one head goes by its name, or cannot be told whose it is.
        $this->capture($project, [1]);
        self::assertSame($fixture['heads'][1]['transform'], array_slice($passes(), -1)[0]['transform']);
        $this->capture($project, [1], 'look');
        $last = array_slice($this->state($project->refresh())['steps'], -1)[0];
        self::assertSame('import', $last['operation']);
        self::assertContains('Not placed by the fixture: 1 pass came in, and it has 2 heads.', $last['figures']['notes']);

        // One can go back behind the fixture.
        foreach ([1, 2, 3] as $_) {
            $this->ask($project, 'undo', [])->assertOk();
        }
        $this->ask($project, 'undo', [])->assertOk();
        self::assertNotSame($fixture['heads'][0]['transform'], $passes()[2]['transform']);
    }

    #[Test]
    public function fixtures_of_projects_that_are_seen_are_listed_and_of_no_others(): void
    {
        $project = $this->withOpenBall();
        $this->capture($project, [0, 1]);
        $this->getJson('/api/fixtures')->assertOk()->assertExactJson([]);
        $this->ask($project, 'steps', ['operation' => 'solve-fixture', 'parameters' => ['diameter' => 12.0, 'balls' => ScanBuilder::BALLS]])->assertAccepted();
        $step = collect($this->state($project->refresh())['steps'])->last();
        self::assertSame('done', $step['state'], (string) $step['message']);
        $listed = $this->getJson('/api/fixtures')->assertOk()->json();
        self::assertCount(1, $listed);
        self::assertSame('Bush', $listed[0]['project']);
        self::assertArrayHasKey('heads', $listed[0]['fixture']);
        $this->actingAs($this->user('bert'));
        $this->getJson('/api/fixtures')->assertOk()->assertExactJson([]);
        foreach (['estimate', 'datum-preview', 'datum-kind', 'pair-preview', 'length-preview', 'frame-preview'] as $question) {
            $this->ask($project, $question, [])->assertForbidden();
        }
    }

    #[Test]
    public function a_rim_left_open_is_remembered_with_its_body_and_the_ready_card_keeps_to_it(): void
    {
        $project = $this->withOpenBall();
        $closed = fn (): array => array_column($this->state($project->refresh())['readyCard'], null, 'key')['closed'];
        self::assertSame(['bad', '1 rim'], [$closed()['state'], $closed()['figure']]);
        $this->ask($project, 'steps', ['operation' => 'fill-holes', 'parameters' => ['leaveOpen' => [[6.0, 0.0, 8.0]]]])->assertAccepted();
        self::assertSame(['good', '1 rim, as wanted'], [$closed()['state'], $closed()['figure']]);
        // It goes along when the body moves, and so does the place that is told of it.
        $this->ask($project, 'steps', ['operation' => 'shift', 'parameters' => ['x' => 100.0]])->assertAccepted();
        self::assertSame('good', $closed()['state']);
        $figures = $this->state($project->refresh())['snapshot']['bodies'][0]['figures'];
        self::assertSame([1, true], [$figures['leftOpen'], $figures['holes'][0]['leftOpen']]);
        self::assertEqualsWithDelta(100.0, $figures['holes'][0]['centre'][0], 0.1);
        self::assertGreaterThan(90.0, min(array_column($figures['holes'][0]['outline'], 0)));
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        self::assertSame('bad', $closed()['state']);
        $this->postJson("/api/projects/$project->id/redo")->assertOk();
        self::assertSame('good', $closed()['state']);
    }
}
