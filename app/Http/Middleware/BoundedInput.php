<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/**
 * Looks at what was sent before anything parses it: how much it is, how many lists and objects it holds, and that it is text. Runs first of all; frames and uploads are bytes and
 * have bounds of their own.
 */
final class BoundedInput
{
    /** Bytes of a form or of JSON from somebody who has not signed in. */
    private const MOST_FROM_STRANGERS = 64 * 1024;

    /** Bytes of JSON: a selection of a million faces in runs is 4 MB at most. */
    private const MOST = 16 * 1024 ** 2;

    /** Lists and objects in it: 400 bytes of memory each. A selection of 100,000 runs has as many. */
    private const MOST_LISTS = 200_000;

    public function handle(Request $request, Closure $next): Response
    {
        if ($request->is('bridge/captures/*/frames') || $request->headers->get('Content-Type') === 'application/offset+octet-stream') {
            return $next($request);
        }
        $most = $request->is('api/*') ? self::MOST : self::MOST_FROM_STRANGERS;
        if ((int) $request->headers->get('Content-Length') > $most || strlen($body = (string) $request->getContent()) > $most) {
            return $this->refuse($request, 413, sprintf('That is more than is taken here at once, %d KB. Select less, or send files as uploads.', intdiv($most, 1024)));
        }
        if ($request->isMethod('PUT') && $request->headers->get('Content-Type') === 'image/png') {
            return $next($request);
        }
        if (substr_count($body, '[') + substr_count($body, '{') > self::MOST_LISTS) {
            return $this->refuse($request, 413, sprintf('That holds more than %s lists. Select less at once.', number_format(self::MOST_LISTS)));
        }
        // JSON may write a NUL as six letters; PostgreSQL stores none.
        $sent = urldecode($request->getRequestUri()).($request->isJson() ? $body : urldecode($body));
        if (! mb_check_encoding($sent, 'UTF-8') || str_contains($sent, "\0") || ($request->isJson() && str_contains($body, '\u0000'))) {
            return $this->refuse($request, 422, 'What was sent holds bytes that are no text. Type it anew.');
        }

        return $next($request);
    }

    private function refuse(Request $request, int $status, string $message): Response
    {
        return $request->is('api/*', 'bridge/*') || $request->expectsJson() ? response()->json(['message' => $message], $status) : response($message, $status, ['Content-Type' => 'text/plain; charset=utf-8']);
    }
}
