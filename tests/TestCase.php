<?php

declare(strict_types=1);

namespace Tests;

use App\Http\Border\Border;
use App\Models\Project;
use App\Models\User;
use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Illuminate\Contracts\Auth\Authenticatable;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Foundation\Testing\RefreshDatabase;
use Illuminate\Foundation\Testing\TestCase as BaseTestCase;
use Illuminate\Testing\TestResponse;

abstract class TestCase extends BaseTestCase
{
    use RefreshDatabase;

    /** Without it every artisan call asks for Mockery, which is not to be had for this PHP. */
    public $mockConsoleOutput = false;

    public function createApplication(): \Illuminate\Foundation\Application
    {
        $app = require __DIR__.'/../bootstrap/app.php';
        $app->make(Kernel::class)->bootstrap();

        return $app;
    }

    /** As somebody who has just signed in: another person's session knows another password. */
    public function actingAs(Authenticatable $user, $guard = null): static
    {
        $this->flushSession();

        return parent::actingAs($user, $guard);
    }

    /** Sends a request, and holds a good answer to what the table of the border says of its address. */
    public function call($method, $uri, $parameters = [], $cookies = [], $files = [], $server = [], $content = null)
    {
        $response = parent::call($method, $uri, $parameters, $cookies, $files, $server, $content);
        $route = request()->route();
        $exchange = $route === null ? null : Border::all()["$method {$route->uri()}"] ?? null;
        if ($response->isSuccessful() && $exchange?->answers !== null) {
            $status = $response->getStatusCode();
            $body = $status === 204 ? null : json_decode((string) $response->getContent(), true);
            self::assertSame([], array_slice($exchange->answers->mistakes($body), 0, 5), "$method {$route->uri()} answers otherwise than app/Http/Border says");
        }

        return $response;
    }

    protected function user(string $name = 'ada'): User
    {
        return User::query()->create(['name' => $name, 'email' => "$name@orchard-press.example", 'password' => 'a long password']);
    }

    /** @param  array<string, mixed>  $brief */
    protected function project(User $user, array $brief = []): Project
    {
        return $user->projects()->create(['name' => 'Bush', 'brief' => [...(new Brief)->toArray(), ...$brief]])->refresh();
    }

    /** Sends a file as the browser does, in two pieces. */
    protected function upload(Project $project, string $name, string $bytes): string
    {
        $created = $this->post("/api/projects/$project->id/uploads", [], ['Upload-Length' => (string) strlen($bytes), 'Upload-Metadata' => 'filename '.base64_encode($name)])->assertCreated();
        $url = (string) $created->headers->get('Location');
        $half = intdiv(strlen($bytes), 2);
        foreach ([[0, substr($bytes, 0, $half)], [$half, substr($bytes, $half)]] as [$offset, $piece]) {
            $this->piece($url, $offset, $piece)->assertNoContent();
        }

        return basename($url);
    }

    /** @return TestResponse<\Illuminate\Http\Response> */
    protected function piece(string $url, int $offset, string $bytes): TestResponse
    {
        return $this->call('PATCH', $url, [], [], [], ['HTTP_UPLOAD_OFFSET' => (string) $offset, 'CONTENT_TYPE' => 'application/offset+octet-stream'], $bytes);
    }

    protected function stl(TriangleMesh $mesh): string
    {
        $held = (string) tempnam(sys_get_temp_dir(), 'ball');
        $path = "$held.stl";
        Formats::write($path, $mesh);
        $bytes = (string) file_get_contents($path);
        unlink($path);
        unlink($held);

        return $bytes;
    }

    /** A project with a ball of radius 10 mm that has a hole on top. */
    protected function withOpenBall(): Project
    {
        $user = $this->user();
        $project = $this->project($user);
        $this->actingAs($user);
        $upload = $this->upload($project, 'ball.stl', $this->stl(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0)));
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$upload], 'unit' => 'mm']])->assertAccepted();

        return $project->refresh();
    }

    /** @return array<string, mixed> */
    protected function state(Project $project): array
    {
        return $this->getJson("/api/projects/$project->id")->assertOk()->json();
    }
}
