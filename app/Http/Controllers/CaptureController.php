<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Jobs\RunBridge;
use App\Models\Capture;
use App\Models\Project;
use App\Models\User;
use App\Services\Ledger;
use Emberstone\Core\Exchange\Blob;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Str;
use Illuminate\Validation\ValidationException;

/** A live capture as the person at the window steers it. */
final class CaptureController
{
    public function store(Request $request, Project $project): JsonResponse
    {
        $data = Border::sent($request);
        $scanner = $data['scanner'] ?? null;
        if ($scanner !== null && ($scanner['part'] === 'press-hall') !== ($scanner['rig'] === 'tripod')) {
            throw ValidationException::withMessages(['scanner.rig' => 'A tripod stands in the press hall, and only a tripod sees a room from inside; choose another part or rig.']);
        }
        abort_if($this->open($project) !== null, 409, 'A capture is running in this project already; finish it first.');
        $token = Str::random(40);
        $capture = Capture::query()->create(['project_id' => $project->id, 'user_id' => $this->user($request)->id, 'scanner' => $scanner, 'token_hash' => hash('sha256', $token)]);
        if ($scanner !== null) {
            // Workers of their own: a capture holds one as long as it lasts.
            RunBridge::dispatch($capture->id)->onQueue('captures');
        }

        return response()->json(['id' => $capture->id, 'token' => $scanner === null ? $token : null, 'address' => url("/bridge/captures/$capture->id")], 201);
    }

    /** The capture that is not over yet. */
    public static function open(Project $project): ?Capture
    {
        return Capture::query()->where('project_id', $project->id)->where('state', '!=', 'finished')->latest('created_at')->first();
    }

    public function command(Request $request, Project $project, Capture $capture, Ledger $ledger): JsonResponse
    {
        $data = Border::sent($request);
        if ($data['do'] === 'look' && ! isset($data['direction'])) {
            throw ValidationException::withMessages(['direction' => 'Say which way the scanner shall look.']);
        }
        abort_if($capture->state === 'finished', 409, 'This capture is over.');
        $capture->fill(['active_at' => now()]);
        switch ($data['do']) {
            case 'pause':
            case 'go':
                abort_unless(in_array($capture->state, Capture::OPEN, true), 409, 'The scanner has stopped by itself; finish the capture.');
                $capture->update(['state' => $data['do'] === 'pause' ? 'paused' : 'running', 'beat_at' => now()]);
                break;
            case 'look':
                $capture->update(['look' => array_map(floatval(...), $data['direction'])]);
                break;
            case 'spray':
                $capture->update(['spray' => true, 'scanner' => $capture->scanner === null ? null : [...$capture->scanner, 'spray' => true]]);
                break;
            case 'finish':
                abort_if($capture->points === 0, 422, 'No point has come in yet; wait for the first frame, or drop the capture.');
                $capture->update(['state' => 'finished']);
                $ledger->add($project, $this->user($request), 'capture', ['capture' => $capture->id]);
                break;
            case 'drop':
                $capture->forget();

                return response()->json(null, 204);
        }

        return response()->json($capture->toState());
    }

    /** Where the object was seen so far, a point a cell with how often as its confidence. */
    public function coverage(Project $project, Capture $capture): Response
    {

        return response(Blob::encode($capture->coverageSoFar()->cells()), 200, ['Content-Type' => 'application/octet-stream', 'Cache-Control' => 'no-store']);
    }

    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
