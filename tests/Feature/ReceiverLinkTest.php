<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\ReceiverLink;
use App\Models\Setting;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Links by which receivers without an account see one delivery, and nothing else. */
final class ReceiverLinkTest extends TestCase
{
    /** A delivery of a measured ball, and the address of a link to it for a week. */
    private function delivered(): string
    {
        Setting::turn(Setting::RECEIVER_LINKS, true);
        $project = $this->withOpenBall();
        $this->step($project, 'measure', ['name' => 'Across', 'of' => [[0, 0, -8], [0, 0, 1]], 'nominal' => 9.0, 'plus' => 0.1, 'minus' => 0.1]);
        $this->step($project, 'deliver', ['formats' => ['stl'], 'for' => 'Kelter Mill']);

        return $this->linkTo($project);
    }

    private function linkTo(Project $project, int $days = 7): string
    {
        $made = $this->postJson("/api/projects/$project->id/links", ['artefact' => $project->snapshot()['artefacts'][0]['id'], 'days' => $days])->assertCreated();

        return (string) parse_url((string) $made->json('url'), PHP_URL_PATH);
    }

    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters): void
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        self::assertSame([$operation, 'done'], [$project->refresh()->head?->operation, $project->head?->state], (string) $project->steps()->latest('id')->first()?->message);
    }

    private function signedOut(): void
    {
        $this->app->make('auth')->forgetGuards();
        $this->flushSession();
    }

    #[Test]
    public function a_receiver_without_an_account_sees_the_part_with_its_measurements_and_takes_its_files(): void
    {
        $link = $this->delivered();
        $project = Project::query()->sole();
        $owner = $project->owner;
        $zip = (string) $this->get("/api/projects/$project->id/artefacts/{$project->snapshot()['artefacts'][0]['id']}/download?format=zip")->getContent();
        $this->signedOut();
        $this->get($link)->assertOk()->assertHeader('X-Robots-Tag', 'noindex, nofollow')->assertCookieMissing('emberstone_session');
        $seen = $this->getJson("/api$link")->assertOk()->json();
        self::assertSame(['Bush', 'Kelter Mill', $owner->name], [$seen['title'], $seen['receiver'], $seen['by']]);
        self::assertSame(['Across', 'in'], [$seen['measurements'][0]['name'], $seen['measurements'][0]['verdict']]);
        self::assertCount(2, $seen['measurements'][0]['line']);
        [$part] = $seen['parts'];
        self::assertGreaterThan(50, $part['faces']);
        self::assertCount(16, $part['transform']);
        $row = $project->snapshot()['bodies'][0];
        self::assertSame($row['blob'], hash('sha256', (string) file_get_contents($this->get("/api$link/parts/0")->assertOk()->baseResponse->getFile()->getPathname())));
        $file = (string) $this->get("/api$link/files/0")->assertOk()->assertHeader('Content-Disposition', 'attachment; filename='.$seen['files'][0]['name'])->getContent();
        self::assertSame($seen['files'][0]['sha256'], hash('sha256', $file));
        self::assertStringStartsWith('%PDF-', (string) $this->get("/api$link/report?format=pdf")->assertOk()->getContent());
        self::assertSame(hash('sha256', $zip), hash('sha256', (string) $this->get("/api$link/report?format=zip")->assertOk()->getContent()));
        $this->getJson("/api$link/files/7")->assertNotFound();
        $this->getJson("/api$link/parts/7")->assertNotFound();
        $this->getJson("/api$link/report?format=exe")->assertUnprocessable();

        // Each look and each file is on record, for those who work on the project.
        $this->actingAs($owner);
        [$told] = $this->getJson("/api/projects/$project->id/links")->assertOk()->json('links');
        self::assertSame([4, ['all files', 'the report', $seen['files'][0]['name'], 'the page']], [$told['visits'], array_column($told['latest'], 'took')]);
        self::assertSame('127.0.0.1', $told['latest'][0]['address']);
    }

    #[Test]
    public function it_shows_the_delivery_as_it_was_whatever_is_done_later(): void
    {
        $link = $this->delivered();
        $project = Project::query()->sole();
        $before = $this->getJson("/api$link")->assertOk()->json();
        $this->step($project, 'scale', ['factor' => 2.0]);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $project->refresh()->update(['name' => 'Another name']);
        self::assertSame([], $project->refresh()->snapshot()['artefacts']);
        self::assertSame($before, $this->getJson("/api$link")->assertOk()->json());
    }

    #[Test]
    public function it_ends_when_it_expires_is_closed_or_links_are_turned_off_and_each_says_so(): void
    {
        $link = $this->delivered();
        $project = Project::query()->sole();
        $other = $this->linkTo($project, 30);
        $this->travel(8)->days();
        $message = (string) $this->getJson("/api$link")->assertStatus(410)->json('message');
        self::assertStringContainsString('was open until', $message);
        foreach (['parts/0', 'files/0', 'report?format=pdf'] as $rest) {
            $this->getJson("/api$link/$rest")->assertStatus(410);
        }
        $this->getJson("/api$other")->assertOk();
        Setting::turn(Setting::RECEIVER_LINKS, false);
        $this->getJson("/api$other")->assertNotFound();
        Setting::turn(Setting::RECEIVER_LINKS, true);
        $open = ReceiverLink::query()->where('expires_at', '>', now())->sole();
        $this->deleteJson("/api/projects/$project->id/links/$open->id")->assertOk();
        self::assertStringContainsString('has been closed', (string) $this->getJson("/api$other")->assertStatus(410)->json('message'));
        self::assertSame(['closed', 'expired'], array_column((array) $this->getJson("/api/projects/$project->id/links")->json('links'), 'state'));
    }

    #[Test]
    public function a_token_that_never_was_opens_nothing_and_is_not_to_be_tried_by_the_thousand(): void
    {
        $this->delivered();
        $this->signedOut();
        $this->getJson('/api/received/'.str_repeat('0', 64))->assertNotFound();
        $this->getJson('/api/received/short')->assertNotFound();
        for ($k = 0; $k < 120; $k++) {
            $last = $this->getJson('/api/received/'.hash('sha256', "guess $k"))->getStatusCode();
        }
        self::assertSame(429, $last);
    }

    #[Test]
    public function they_are_off_until_a_keeper_turns_them_on(): void
    {
        $project = $this->withOpenBall();
        $this->step($project, 'deliver', ['formats' => ['stl']]);
        $artefact = $project->snapshot()['artefacts'][0]['id'];
        $ask = fn () => $this->postJson("/api/projects/$project->id/links", ['artefact' => $artefact, 'days' => 7]);
        self::assertStringContainsString('turned off', (string) $ask()->assertUnprocessable()->json('message'));
        self::assertNull($this->getJson('/api/account')->json('settings'));
        $this->patchJson('/api/account/settings', ['receiverLinks' => true])->assertForbidden();
        $project->owner->update(['is_keeper' => true]);
        $this->actingAs($project->owner);
        self::assertSame(['receiverLinks' => false], $this->getJson('/api/account')->json('settings'));
        $this->patchJson('/api/account/settings', ['receiverLinks' => true])->assertOk();
        $ask()->assertCreated();
        // Of what is no delivery, and for ever, there is none.
        $this->postJson("/api/projects/$project->id/links", ['artefact' => $project->snapshot()['bodies'][0]['id'], 'days' => 7])->assertNotFound();
        $this->postJson("/api/projects/$project->id/links", ['artefact' => $artefact, 'days' => 5000])->assertUnprocessable();
        self::assertSame(1, ReceiverLink::query()->count());
    }
}
