<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Services\BlobStore;
use Illuminate\Support\Facades\DB;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Response;

/** Geometry for the view, to those who may see a project that holds it. */
final class BlobController
{
    /** Laravel checks the right to see it; nginx sends the bytes where it serves (EMBERSTONE_ACCEL). */
    public function show(Project $project, string $hash, BlobStore $blobs): Response
    {
        $this->check($project, $hash);

        return $this->send($hash, $blobs->path($hash));
    }

    /** One point of a cloud in `every`. */
    public function every(Project $project, string $hash, int $every, BlobStore $blobs): Response
    {
        $this->check($project, $hash);
        abort_unless($every >= 2 && $every <= 1000, 404);

        return $this->send("$hash-$every", $blobs->standIn($hash, $every));
    }

    private function check(Project $project, string $hash): void
    {
        abort_unless(DB::table('step_blobs')->join('steps', 'steps.id', '=', 'step_id')->where('steps.project_id', $project->id)->where('hash', $hash)->exists(), 404);
    }

    private function send(string $name, string $path): Response
    {
        $headers = ['Content-Type' => 'application/octet-stream', 'Cache-Control' => 'private, max-age=31536000, immutable', 'ETag' => "\"$name\""];
        if (getenv('EMBERSTONE_ACCEL') === '1') {
            return response('', 200, $headers + ['X-Accel-Redirect' => '/blobs/'.substr($name, 0, 2).'/'.$name]);
        }

        return new BinaryFileResponse($path, 200, $headers);
    }
}
