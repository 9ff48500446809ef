<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Services\BlobStore;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Response;

/** Geometry for the view, to those who may see a project that holds it. */
final class BlobController
{
    /** A still is not larger than this, bytes and pixels each way: it stands in a card of a list. */
    private const PICTURE_BYTES = 1 << 20;

    private const PICTURE_PIXELS = 1600;

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

    /** The still of a pass or body for the list of projects, as a view has drawn it. */
    public function picture(Project $project, string $hash, BlobStore $blobs): Response
    {
        $this->check($project, $hash);
        abort_unless(is_file($blobs->picturePath($hash)), 404);

        return new BinaryFileResponse($blobs->picturePath($hash), 200, ['Content-Type' => 'image/png', 'X-Content-Type-Options' => 'nosniff', 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    public function keepPicture(Request $request, Project $project, string $hash, BlobStore $blobs): Response
    {
        $this->check($project, $hash);
        $png = $request->getContent();
        $size = strlen($png) <= self::PICTURE_BYTES ? @getimagesizefromstring($png) : false;
        abort_unless($size !== false && $size[2] === IMAGETYPE_PNG && max($size[0], $size[1]) <= self::PICTURE_PIXELS, 422, 'The picture must be a PNG of at most '.self::PICTURE_PIXELS.' pixels each way.');
        $blobs->keepPicture($hash, $png);

        return response()->noContent();
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
