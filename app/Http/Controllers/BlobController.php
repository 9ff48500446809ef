<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Services\BlobStore;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Response;

final class BlobController
{
    /** Laravel checks the right to see it; nginx sends the bytes where it serves (EMBERSTONE_ACCEL). */
    public function show(Project $project, string $hash, BlobStore $blobs): Response
    {
        $known = $project->steps()->whereNotNull('snapshot')->whereRaw("snapshot::text || coalesce(figures::text, '') like ?", ["%$hash%"])->exists();
        abort_unless($known, 404);
        $path = $blobs->path($hash);
        $headers = ['Content-Type' => 'application/octet-stream', 'Cache-Control' => 'private, max-age=31536000, immutable', 'ETag' => "\"$hash\""];
        if (getenv('EMBERSTONE_ACCEL') === '1') {
            return response('', 200, $headers + ['X-Accel-Redirect' => '/blobs/'.substr($hash, 0, 2).'/'.$hash]);
        }

        return new BinaryFileResponse($path, 200, $headers);
    }
}
