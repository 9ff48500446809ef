<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Step;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/** What strangers, former members and oversized requests may not do. */
final class NobodyInTest extends TestCase
{
    #[Test]
    public function naming_something_after_a_blob_gives_no_right_to_read_it(): void
    {
        $project = $this->withOpenBall();
        $hash = $project->snapshot()['bodies'][0]['blob'];
        $this->get("/api/projects/$project->id/blobs/$hash")->assertOk();

        $stranger = $this->user('otto');
        $own = $this->project($stranger);
        $this->actingAs($stranger);
        $this->postJson("/api/projects/$own->id/steps", ['operation' => 'add-datum', 'parameters' => ['name' => $hash, 'kind' => 'plane', 'points' => [[0, 0, 0], [1, 0, 0], [0, 1, 0]]]])->assertAccepted();
        self::assertSame('done', Step::query()->where('project_id', $own->id)->sole()->state);
        $this->get("/api/projects/$own->id/blobs/$hash")->assertNotFound();
        $this->get("/api/projects/$own->id/blobs/$hash/every/10")->assertNotFound();
    }

    private function signIn(bool $remember): \Illuminate\Testing\TestResponse
    {
        return $this->post('/sign-in', ['email' => 'ada@orchard-press.example', 'password' => 'a long password'] + ($remember ? ['remember' => '1'] : []))->assertRedirect('/');
    }

    #[Test]
    public function a_new_password_ends_the_sessions_of_the_old_one(): void
    {
        $this->user();
        $this->signIn(false);
        $this->getJson('/api/projects')->assertOk();
        $this->app->make(Kernel::class)->call('emberstone:user', ['email' => 'ada@orchard-press.example', '--password' => 'another password']);
        $this->app->make('auth')->forgetGuards();
        $this->getJson('/api/projects')->assertUnauthorized();
    }

    #[Test]
    public function a_machine_is_remembered_only_when_that_is_asked_for(): void
    {
        $this->user();
        $remembered = fn (bool $asked): bool => array_filter($this->signIn($asked)->headers->getCookies(), fn ($cookie) => str_starts_with($cookie->getName(), 'remember_')) !== [];
        self::assertFalse($remembered(false));
        $this->post('/sign-out');
        self::assertTrue($remembered(true));
    }

    #[Test]
    public function a_capture_ends_with_the_membership_of_the_one_who_began_it(): void
    {
        $project = $this->withOpenBall();
        $member = $this->user('otto');
        $project->welcome($member);
        $this->actingAs($member);
        $begun = $this->postJson("/api/projects/$project->id/captures", ['scanner' => null])->assertCreated()->json();
        $look = fn () => $this->getJson("/bridge/captures/{$begun['id']}", ['Authorization' => "Bearer {$begun['token']}"]);
        $look()->assertOk();
        $project->members()->detach($member->id);
        $look()->assertNotFound();
    }

    #[Test]
    public function the_queue_holds_no_token_that_can_be_read(): void
    {
        $project = $this->withOpenBall();
        config(['queue.default' => 'database']);
        $this->postJson("/api/projects/$project->id/captures", ['scanner' => ['part' => 'bush', 'rig' => 'turntable']])->assertCreated();
        $payload = (string) DB::table('jobs')->sole()->payload;
        self::assertStringContainsString('RunBridge', $payload);
        self::assertStringNotContainsString('token', $payload);
    }

    #[Test]
    public function more_than_a_form_holds_is_refused_before_it_is_parsed(): void
    {
        $this->call('POST', '/sign-in', server: ['CONTENT_TYPE' => 'application/json', 'HTTP_ACCEPT' => 'application/json'], content: '['.str_repeat('[],', 30000).'[]]')->assertStatus(413);
        $project = $this->withOpenBall();
        $lists = '{"operation": "cut-away", "parameters": {"selection": ['.str_repeat('[],', 250_000).'[]]}}';
        $this->call('POST', "/api/projects/$project->id/steps", server: ['CONTENT_TYPE' => 'application/json'], content: $lists)->assertStatus(413)->assertSee('200,000 lists');
    }

    #[Test]
    #[TestWith(['{"name": "a\u0000b"}'])]
    #[TestWith(["{\"name\": \"a\xFFb\"}"])]
    #[TestWith(["{\"labels\": {\"x\": \"a\x00b\"}}"])]
    public function bytes_that_are_no_text_are_refused_in_words(string $json): void
    {
        $project = $this->withOpenBall();
        $this->call('PATCH', "/api/projects/$project->id", server: ['CONTENT_TYPE' => 'application/json', 'HTTP_ACCEPT' => 'application/json'], content: $json)->assertStatus(422)->assertSee('no text');
        $this->get("/api/projects/$project->id?of=a%00b")->assertStatus(422);
    }

    #[Test]
    public function sessions_are_listed_without_their_keys_and_ended_one_by_one(): void
    {
        config(['session.driver' => 'database']);
        $ada = $this->user();
        $session = fn (int $user, string $id, string $agent) => DB::table('sessions')->insert(['id' => $id, 'user_id' => $user, 'ip_address' => '10.0.0.7', 'user_agent' => $agent, 'payload' => '', 'last_activity' => time() - 60]);
        $session($ada->id, 'key-of-the-press', 'Mozilla/5.0 (Windows NT 10.0) Gecko/20100101 Firefox/128.0');
        $session($this->user('otto')->id, 'key-of-otto', 'Mozilla/5.0 (X11; Linux x86_64) Chrome/120.0 Safari/537.36');
        $ada->setRememberToken('remembered');
        $ada->save();
        $this->actingAs($ada);
        $account = $this->getJson('/api/account')->assertOk()->assertDontSee('key-of')->json();
        self::assertSame([['Firefox on Windows', '10.0.0.7', false]], array_map(fn (array $one) => [$one['browser'], $one['address'], $one['isThis']], $account['sessions']));
        $others = substr(hash('sha256', 'key-of-otto'), 0, 32);
        $this->deleteJson("/api/account/sessions/$others")->assertNotFound();
        $this->deleteJson("/api/account/sessions/{$account['sessions'][0]['name']}")->assertOk();
        self::assertSame(['key-of-otto'], DB::table('sessions')->whereIn('id', ['key-of-the-press', 'key-of-otto'])->pluck('id')->all());
        self::assertNotSame('remembered', $ada->refresh()->getRememberToken());
    }

    #[Test]
    public function only_keepers_of_the_installation_see_what_takes_its_space(): void
    {
        $project = $this->withOpenBall();
        $this->getJson('/api/account')->assertOk()->assertJsonPath('space', null);
        $project->owner->update(['is_keeper' => true]);
        $this->actingAs($project->owner->refresh());
        $space = $this->getJson('/api/account')->assertOk()->json('space');
        $bytes = (int) DB::table('blobs')->sum('size');
        self::assertSame([['name' => 'Bush', 'owner' => 'ada', 'bytes' => $bytes]], $space['projects']);
        self::assertEquals(['what' => 'Geometry in the database', 'bytes' => $bytes], $space['things'][0]);
    }

    #[Test]
    public function texts_have_a_bound_wherever_they_come_in(): void
    {
        $project = $this->withOpenBall();
        $long = str_repeat('ä', 201);
        $this->postJson('/api/projects', ['name' => $long])->assertStatus(422);
        $this->postJson('/api/projects', ['name' => substr($long, 0, 400)])->assertCreated();
        $this->patchJson("/api/projects/$project->id", ['labels' => ['x' => $long]])->assertStatus(422);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'add-datum', 'parameters' => ['name' => $long, 'kind' => 'point', 'points' => [[0, 0, 0]]]])->assertStatus(422)->assertJsonPath('parameter', 'name');
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$long]]])->assertStatus(422);
    }
}
