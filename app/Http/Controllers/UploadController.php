<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Models\Upload;
use App\Services\DiskSpace;
use Emberstone\Core\Exchange\TextColumns;
use Emberstone\Core\Exchange\Xyz;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Operation\ParamSpec;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** The server side of tus 1.0.0, creation extension: uploads that go on after a lost connection. */
final class UploadController
{
    private const MOST = 4 * 1024 ** 3;

    public function create(Request $request, Project $project, DiskSpace $disk): Response
    {
        abort_if($disk->isFull(), 507, sprintf('The disk of this machine is full to %.0f %%, so no new files are taken. Delete projects that are done with, or ask whoever looks after this installation.', 100.0 * $disk->used()));
        $size = $request->header('Upload-Length');
        abort_unless(is_string($size) && ctype_digit($size) && strlen($size) < 16, 400, 'Upload-Length is missing.');
        abort_if((int) $size > self::MOST, 413, 'Files may be up to 4 GB; split the pass.');
        abort_if((int) $size === 0, 422, 'The file is empty; copy it again from the scanner.');
        $name = '';
        foreach (explode(',', $request->headers->get('Upload-Metadata') ?? '') as $pair) {
            [$key, $value] = [...explode(' ', trim($pair), 2), ''];
            if ($key === 'filename') {
                $name = basename((string) base64_decode($value, true));
            }
        }
        abort_if($name === '' || mb_strlen($name) > ParamSpec::MOST_LETTERS || str_contains($name, "\0") || ! mb_check_encoding($name, 'UTF-8'), 422, sprintf('The file needs a name of at most %d letters.', ParamSpec::MOST_LETTERS));
        $upload = Upload::query()->create(['project_id' => $project->id, 'user_id' => $request->user()?->id, 'name' => $name, 'size' => (int) $size]);
        touch($upload->path());

        return response('', 201)->withHeaders($this->headers($upload) + ['Location' => "/api/projects/{$project->id}/uploads/{$upload->id}"]);
    }

    public function offset(Project $project, Upload $upload): Response
    {

        return response('', 200)->withHeaders($this->headers($upload) + ['Upload-Length' => (string) $upload->size, 'Cache-Control' => 'no-store']);
    }

    public function append(Request $request, Project $project, Upload $upload): Response
    {
        abort_unless($request->header('Content-Type') === 'application/offset+octet-stream', 415);
        $parts = $upload->parts();
        abort_unless(is_file($upload->path()), 404, 'The upload is not there any more; drop the file again.');
        // Two connections must not write the same upload at once.
        $lock = $parts->locked(LOCK_EX | LOCK_NB);
        abort_if($lock === null, 423, 'This upload is being written by another connection.');
        $received = $parts->size();
        abort_unless($request->header('Upload-Offset') === (string) $received, 409, 'The upload stands at another place; ask for its offset.');
        // Where the web server has written a file of what was sent, that is taken over.
        $stored = $request->server('EMBERSTONE_BODY');
        $parts->take(is_string($stored) && $stored !== '' ? $stored : $request->getContent(true), $upload->size - $received);
        $upload->update(['received' => $parts->size()]);
        fclose($lock);

        return response('', 204)->withHeaders($this->headers($upload));
    }

    /** The first lines of a text file and what its columns are taken for, to be confirmed; no content for files of any other kind. */
    public function columns(Project $project, Upload $upload): JsonResponse
    {
        abort_unless($upload->received === $upload->size, 409, 'The file has not arrived whole yet.');
        $xyz = new Xyz;
        if (! in_array(strtolower(pathinfo($upload->name, PATHINFO_EXTENSION)), $xyz->endings(), true)) {
            return response()->json(null, 204);
        }
        try {
            return response()->json($xyz->look($upload->parts()->whole(), isBlocks: str_ends_with(strtolower($upload->name), '.pts')) + ['roles' => TextColumns::ROLES]);
        } catch (UnreadableFile) {
            // The import will say what is wrong with it, under the name it came with.
            return response()->json(null, 204);
        }
    }

    /** @return array<string, string> */
    private function headers(Upload $upload): array
    {
        return ['Tus-Resumable' => '1.0.0', 'Upload-Offset' => (string) $upload->parts()->size()];
    }
}
