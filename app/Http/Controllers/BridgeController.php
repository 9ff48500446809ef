<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Capture;
use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Foundation\UnreadableFile;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/** The side of a live capture that a scanner's bridge speaks to (docs/capture-protocol.md). It proves itself by the capture's token, not by a session. */
final class BridgeController
{
    public function frame(Request $request, string $id): JsonResponse
    {
        $capture = $this->capture($request, $id);
        if (! in_array($capture->state, Capture::OPEN, true)) {
            return response()->json(['do' => 'end', 'look' => null, 'spray' => false]);
        }
        $bytes = (string) $request->getContent();
        try {
            $frame = Frame::decode($bytes);
        } catch (UnreadableFile $problem) {
            return response()->json(['message' => $problem->getMessage()], 422);
        }
        $capture->take($frame, $bytes);

        return $this->next($capture);
    }

    /** What to do now; asked while the capture is paused. */
    public function look(Request $request, string $id): JsonResponse
    {
        return $this->next($this->capture($request, $id));
    }

    /** The scanner has made all its stops, or gives up. */
    public function end(Request $request, string $id): JsonResponse
    {
        $capture = $this->capture($request, $id);
        $data = Border::sent($request);
        if (in_array($capture->state, Capture::OPEN, true)) {
            $capture->update(['state' => isset($data['message']) ? 'failed' : 'ended', 'message' => $data['message'] ?? null]);
        }

        return response()->json(['do' => 'end', 'look' => null, 'spray' => false]);
    }

    private function capture(Request $request, string $id): Capture
    {
        $capture = Capture::query()->find($id);
        abort_unless($capture !== null && hash_equals($capture->token_hash, hash('sha256', (string) $request->bearerToken())), 404, 'There is no such capture, or the token is not its own.');

        // Who is no member any more ends what they began.
        abort_unless($capture->project->isVisibleTo($capture->user), 404, 'There is no such capture, or the token is not its own.');

        return $capture;
    }

    /** Each wish is told once. */
    private function next(Capture $capture): JsonResponse
    {
        return DB::transaction(function () use ($capture): JsonResponse {
            $told = Capture::query()->lockForUpdate()->find($capture->id);
            if ($told === null) {
                return response()->json(['do' => 'end', 'look' => null, 'spray' => false]);
            }
            $reply = ['do' => match (true) {
                $told->state === 'paused' => 'pause',
                in_array($told->state, Capture::OPEN, true) => 'go',
                default => 'end',
            }, 'look' => $told->look, 'spray' => $told->spray];
            $told->update(['look' => null, 'spray' => false, 'beat_at' => now()]);

            return response()->json($reply);
        });
    }
}
