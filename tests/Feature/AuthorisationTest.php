<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Capture;
use App\Models\Project;
use App\Models\ReceiverLink;
use App\Models\Upload;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\Route as Routes;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** Every route of the application, asked by those who may not: a route that is added is asked too. */
final class AuthorisationTest extends TestCase
{
    /** What anybody may ask for. A capture's bridge and the receiver of a delivery prove themselves by a token. */
    private const OPEN = [
        'GET received/{token}', 'GET api/received/{token}', 'GET api/received/{token}/parts/{number}', 'GET api/received/{token}/files/{number}', 'GET api/received/{token}/report',
        'GET sign-in', 'POST sign-in', 'GET bridge/captures/{id}', 'POST bridge/captures/{id}/frames', 'POST bridge/captures/{id}/end',
    ];

    /** @return list<array{string, Route}> method and route */
    private function routes(): array
    {
        $all = [];
        foreach (Routes::getRoutes() as $route) {
            foreach (array_diff($route->methods(), ['HEAD']) as $method) {
                if (! in_array("$method {$route->uri()}", self::OPEN, true)) {
                    $all[] = [$method, $route];
                }
            }
        }

        return $all;
    }

    /** @param  array<string, string>  $values  of the parameters of the address */
    private function address(Route $route, array $values): string
    {
        return '/'.preg_replace_callback('/\{(\w+)\??\}/', fn (array $found) => $values[$found[1]], $route->uri());
    }

    /** @return array<string, string> what an address may name in a project */
    private function things(Project $project): array
    {
        $upload = $this->upload($project, 'more.stl', 'solid more');
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'section', 'parameters' => ['plane' => 'YZ']])->assertAccepted();
        $artefact = $project->refresh()->snapshot()['artefacts'][0];
        $capture = Capture::query()->create(['project_id' => $project->id, 'user_id' => $project->owner_id, 'token_hash' => str_repeat('0', 64), 'state' => 'finished']);
        $body = $project->snapshot()['bodies'][0];

        return ['id' => $project->id, 'project' => $project->id, 'step' => (string) $project->head_step_id, 'capture' => $capture->id, 'upload' => $upload, 'member' => '1', 'body' => $body['id'], 'artefact' => $artefact['id'], 'hash' => $body['blob'], 'every' => '10', 'session' => str_repeat('0', 32), 'item' => $body['id'], 'link' => ReceiverLink::query()->create(['project_id' => $project->id, 'step_id' => $project->head_step_id, 'artefact' => $artefact['id'], 'token_hash' => str_repeat('1', 64), 'made_by' => 'Ada', 'expires_at' => now()->addDay()])->id];
    }

    #[Test]
    public function nothing_answers_somebody_who_has_not_signed_in(): void
    {
        $values = $this->things($this->withOpenBall());
        $this->app->make('auth')->forgetGuards();
        $this->flushSession();
        foreach ($this->routes() as [$method, $route]) {
            $answer = $this->json($method, $this->address($route, $values));
            self::assertSame(401, $answer->getStatusCode(), "$method {$route->uri()}");
        }
        self::assertGreaterThan(35, count($this->routes()));
    }

    #[Test]
    public function nothing_of_a_project_answers_a_stranger(): void
    {
        $project = $this->withOpenBall();
        $values = $this->things($project);
        $this->actingAs($this->user('otto'));
        $asked = 0;
        foreach ($this->routes() as [$method, $route]) {
            if (str_contains($route->uri(), '{project}')) {
                $answer = $this->json($method, $this->address($route, $values));
                self::assertContains($answer->getStatusCode(), [403, 404], "$method {$route->uri()}");
                $asked++;
            }
        }
        self::assertGreaterThanOrEqual(30, $asked);
        self::assertNotNull($project->fresh());
        self::assertNotNull(Upload::query()->find($values['upload']));
    }

    #[Test]
    public function what_belongs_to_another_project_is_not_found_behind_ones_own(): void
    {
        $values = $this->things($this->withOpenBall());
        $stranger = $this->user('otto');
        $own = $this->project($stranger);
        $this->actingAs($stranger);
        $asked = 0;
        foreach ($this->routes() as [$method, $route]) {
            if (str_contains($route->uri(), '{project}') && preg_match('/\{(step|capture|upload|body|hash|link)\}/', $route->uri()) === 1) {
                $answer = $this->json($method, $this->address($route, ['project' => $own->id] + $values).'?format=stl');
                self::assertSame(404, $answer->getStatusCode(), "$method {$route->uri()}");
                $asked++;
            }
        }
        self::assertGreaterThan(10, $asked);
    }

    #[Test]
    public function passwords_cannot_be_guessed_by_the_hundred_and_the_rightful_user_comes_in_from_elsewhere(): void
    {
        $this->user();
        $try = fn (string $password, string $from = '10.0.0.1') => $this->call('POST', '/sign-in', ['email' => 'ada@orchard-press.example', 'password' => $password], server: ['REMOTE_ADDR' => $from]);
        for ($k = 0; $k < 10; $k++) {
            $try("guess $k")->assertSessionHasErrors(['email' => 'No user has this address and password. Check both, or ask whoever looks after this installation.']);
        }
        $try('a long password')->assertSessionHasErrors(['email' => 'Too many tries; wait a minute and try again.']);
        $this->assertGuest();
        $try('a long password', '10.0.0.2')->assertRedirect('/');
        $this->assertAuthenticated();
    }

    #[Test]
    public function who_knows_the_password_signs_in_as_often_as_it_takes_within_a_minute(): void
    {
        $this->user();
        for ($k = 0; $k < 70; $k++) {
            $this->post('/sign-in', ['email' => 'ada@orchard-press.example', 'password' => 'a long password'])->assertRedirect('/');
            $this->assertAuthenticated();
            $this->post('/sign-out');
            $this->assertGuest();
        }
    }
}
