<?php

declare(strict_types=1);

namespace Tests;

use App\Models\Project;
use App\Models\User;
use Emberstone\Core\Deliver\Brief;
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
}
