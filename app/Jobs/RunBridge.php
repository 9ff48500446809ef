<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Capture;
use App\Services\Bridge;
use Emberstone\Core\Capture\Frame;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Http\Client\ConnectionException;
use Illuminate\Http\Client\PendingRequest;
use Illuminate\Support\Facades\Http;
use Illuminate\Support\Str;
use Throwable;

/** A simulated scanner at work: speaks to the application over HTTP as a device's bridge would. It makes its own token when it begins, so that none lies in the queue. */
final class RunBridge implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(private readonly string $captureId)
    {
    }

    public function handle(): void
    {
        $capture = Capture::query()->find($this->captureId);
        if ($capture === null || $capture->scanner === null || ! in_array($capture->state, Capture::OPEN, true)) {
            return;
        }
        $capture->update(['token_hash' => hash('sha256', $token = Str::random(40))]);
        // To this very machine, whose certificate may be made out to another name. What one frame may take to answer, and how often a lost connection is tried again.
        $http = fn (): PendingRequest => Http::baseUrl((string) config('app.url'))->withToken($token)->acceptJson()->withoutVerifying()->timeout(30)->retry(20, 500, fn (Throwable $problem) => $problem instanceof ConnectionException);
        $path = "/bridge/captures/$this->captureId";
        try {
            Bridge::run(
                $capture->scanner,
                fn (Frame $frame) => $http()->withBody($frame->encode(), 'application/octet-stream')->post("$path/frames")->throw()->json(),
                fn () => $http()->get($path)->throw()->json(),
                fn () => $http()->post("$path/end")->throw()->json(),
            );
        } catch (Throwable $problem) {
            report($problem);
            Capture::query()->whereKey($this->captureId)->whereIn('state', Capture::OPEN)->update(['state' => 'failed', 'message' => 'The scanner broke off. What it delivered is kept: finish the capture, or drop it.']);
        }
    }
}
