<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Capture;
use App\Models\Project;
use App\Services\Bridge;
use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Geometry\RigidTransform;
use Illuminate\Support\Facades\Queue;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** A live capture from start to passes, both sides of it: the person at the window and the scanner's bridge. */
final class CaptureTest extends TestCase
{
    private Project $project;

    protected function setUp(): void
    {
        parent::setUp();
        $user = $this->user();
        $this->project = $this->project($user);
        $this->actingAs($user);
    }

    private static function frame(int $sweep, bool $lost = false): Frame
    {
        $p = [];
        for ($k = 0; $k < 400; $k++) {
            array_push($p, 0.5 * ($k % 20), 0.5 * intdiv($k, 20), -100.0);
        }

        return new Frame($sweep, RigidTransform::shift(0.0, 0.0, 100.0), PointCloud::fromFlat($lost ? [] : $p, [], [], [0.0, 0.0, 0.0]), $lost);
    }

    /** @return array{id: string, token: string} */
    private function started(): array
    {
        return $this->postJson("/api/projects/{$this->project->id}/captures", [])->assertCreated()->json();
    }

    /** @return TestResponse<\Illuminate\Http\Response> */
    private function send(string $id, string $token, string $bytes): TestResponse
    {
        return $this->call('POST', "/bridge/captures/$id/frames", [], [], [], ['HTTP_AUTHORIZATION' => "Bearer $token", 'CONTENT_TYPE' => 'application/octet-stream', 'HTTP_ACCEPT' => 'application/json'], $bytes);
    }

    /** @param  array<string, mixed>  $more */
    private function tell(string $id, string $do, array $more = []): TestResponse
    {
        return $this->postJson("/api/projects/{$this->project->id}/captures/$id/command", ['do' => $do] + $more);
    }

    #[Test]
    public function a_device_delivers_frames_that_become_passes(): void
    {
        ['id' => $id, 'token' => $token] = $this->started();
        $this->assertSame(['waiting', 0], [$this->state($this->project)['capture']['state'], $this->state($this->project)['capture']['frames']]);
        $this->send($id, $token, self::frame(0)->encode())->assertOk()->assertExactJson(['do' => 'go', 'look' => null, 'spray' => false]);
        $this->send($id, $token, self::frame(0)->encode())->assertOk();
        $this->send($id, $token, self::frame(1, lost: true)->encode())->assertOk();
        $state = $this->state($this->project)['capture'];
        $this->assertSame(['running', 3, 1, true, 800], [$state['state'], $state['frames'], $state['lost'], $state['isLost'], $state['points']]);
        $this->assertEquals([0, 0, 100], $state['standsAt']);
        $cells = Blob::decode((string) $this->get("/api/projects/{$this->project->id}/captures/$id/coverage")->assertOk()->getContent());
        assert($cells instanceof PointCloud);
        $this->assertSame(800.0, array_sum($cells->confidence));

        $this->send($id, $token, self::frame(1)->encode())->assertOk();
        $this->tell($id, 'finish')->assertOk();
        $after = $this->state($this->project);
        $this->assertNull($after['capture']);
        $this->assertSame([800, 400], array_column($after['snapshot']['passes'], 'points'));
        $this->assertSame('2 passes · 1.2 k points', $after['steps'][0]['figures']['headline']);
        $this->assertSame(['Tracking was lost in 1 of 4 frames; they hold no points.'], $after['steps'][0]['figures']['notes']);
        $this->assertSame(0, Capture::query()->count(), 'what was delivered lives in blobs now');
        $this->send($id, $token, self::frame(0)->encode())->assertNotFound();
    }

    #[Test]
    public function wishes_reach_the_scanner_once_and_a_pause_holds_it(): void
    {
        ['id' => $id, 'token' => $token] = $this->started();
        $this->tell($id, 'look', ['direction' => [0.5, -1, 2]])->assertOk();
        $this->tell($id, 'spray')->assertOk();
        $this->send($id, $token, self::frame(0)->encode())->assertExactJson(['do' => 'go', 'look' => [0.5, -1, 2], 'spray' => true]);
        $this->send($id, $token, self::frame(0)->encode())->assertExactJson(['do' => 'go', 'look' => null, 'spray' => false]);
        $this->tell($id, 'pause')->assertOk();
        $this->getJson("/bridge/captures/$id", ['Authorization' => "Bearer $token"])->assertOk()->assertJson(['do' => 'pause']);
        $this->tell($id, 'go')->assertOk();
        $this->getJson("/bridge/captures/$id", ['Authorization' => "Bearer $token"])->assertJson(['do' => 'go']);
        $this->tell($id, 'look', ['direction' => [1, 2]])->assertUnprocessable();
        $this->tell($id, 'dance')->assertUnprocessable();
    }

    #[Test]
    public function nobody_delivers_without_the_token_and_nobody_steers_another_ones_capture(): void
    {
        ['id' => $id, 'token' => $token] = $this->started();
        $this->send($id, 'guessed', self::frame(0)->encode())->assertNotFound();
        $this->getJson("/bridge/captures/$id")->assertNotFound();
        $this->postJson("/api/projects/{$this->project->id}/captures", [])->assertConflict();
        $this->actingAs($this->user('otto'));
        $this->tell($id, 'finish')->assertForbidden();
        $this->getJson("/api/projects/{$this->project->id}/captures/$id/coverage")->assertForbidden();
        $other = $this->project($this->user('una'));
        $this->actingAs($other->owner);
        $this->postJson("/api/projects/$other->id/captures/$id/command", ['do' => 'finish'])->assertNotFound();
        $this->send($id, $token, 'no frame at all')->assertUnprocessable()->assertJsonPath('message', fn (string $why) => str_contains($why, 'frame'));
    }

    #[Test]
    public function an_empty_capture_is_not_finished_and_a_dropped_one_leaves_nothing(): void
    {
        ['id' => $id, 'token' => $token] = $this->started();
        $folder = Capture::query()->findOrFail($id)->folder();
        $this->tell($id, 'finish')->assertUnprocessable();
        $this->send($id, $token, self::frame(0)->encode())->assertOk();
        $this->tell($id, 'drop')->assertNoContent();
        $this->assertDirectoryDoesNotExist($folder);
        $this->assertNull($this->state($this->project)['capture']);
        $this->assertSame([], $this->state($this->project)['steps']);
    }

    #[Test]
    public function a_simulated_ring_delivers_its_four_heads_and_ends(): void
    {
        Queue::fake();
        $this->postJson("/api/projects/{$this->project->id}/captures", ['scanner' => ['part' => 'press-hall', 'rig' => 'ring']])->assertUnprocessable();
        $id = $this->postJson("/api/projects/{$this->project->id}/captures", ['scanner' => ['part' => 'bush', 'rig' => 'ring']])->assertCreated()->json('id');
        Queue::assertCount(1);
        $capture = Capture::query()->findOrFail($id);
        $ended = false;
        Bridge::run(
            ['part' => 'bush', 'rig' => 'ring'],
            function (Frame $frame) use ($capture): array {
                $capture->take(Frame::decode($frame->encode()), $frame->encode());

                return ['do' => 'go', 'look' => null, 'spray' => false];
            },
            fn () => ['do' => 'go', 'look' => null, 'spray' => false],
            function () use (&$ended): void {
                $ended = true;
            },
        );
        $this->assertTrue($ended);
        $this->assertSame(4, $capture->refresh()->frames);
        $this->assertGreaterThan(100_000, $capture->points);
        $capture->update(['state' => 'ended']);
        $this->tell($id, 'go')->assertConflict();
    }

    #[Test]
    public function a_running_scanner_that_falls_silent_is_said_to_be(): void
    {
        ['id' => $id, 'token' => $token] = $this->started();
        $this->send($id, $token, self::frame(0)->encode())->assertOk();
        $this->assertFalse($this->state($this->project)['capture']['silent']);
        $this->travel(1)->minutes();
        $this->assertTrue($this->state($this->project)['capture']['silent']);
        $this->tell($id, 'pause')->assertOk();
        $this->assertFalse($this->state($this->project)['capture']['silent'], 'a paused one may be silent');
    }
}
