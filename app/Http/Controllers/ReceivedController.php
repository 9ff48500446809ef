<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\ReceiverLink;
use App\Models\Setting;
use App\Models\Step;
use App\Services\BlobStore;
use App\Services\BrowserName;
use App\Services\Handover;
use App\Services\Workbench;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** What somebody sees who was sent a receiver's link: one delivery as it was, and nothing else of the shop. Each look and each file taken is recorded. */
final class ReceivedController
{
    /** The page, the same for every token: what it shows, and that there is nothing, it learns from show(). */
    public function page(): Response
    {
        return response()->view('app', ['isReceived' => true], 200, self::HIDDEN);
    }

    /** Neither search engines nor pages that are gone to from here learn the address. */
    private const HIDDEN = ['X-Robots-Tag' => 'noindex, nofollow', 'Cache-Control' => 'private, no-store'];

    /** What the page shows. A look is recorded. */
    public function show(Request $request, string $token, Workbench $workbench): JsonResponse
    {
        $link = self::opened($token);
        [$delivery, $bodies] = self::delivery($link, $workbench);
        $context = Handover::context($link->step);
        self::record($request, $link, 'the page');
        $parts = [];
        foreach ($delivery->parts() as $part) {
            $row = $bodies[$part['body'] ?? ''] ?? null;
            $parts[] = [
                'name' => $part['name'], 'size' => $part['size'], 'points' => $part['points'], 'faces' => $part['faces'], 'volume' => $part['volume'] ?? null, 'figures' => $part['figures'] === null ? null : ['measured' => $part['figures']['measured'], 'madeUp' => (object) ($part['figures']['madeUp'] ?? [])],
                'ready' => $part['figures'] === null ? [] : $delivery->ready($part, $context->isOriented),
                'transform' => $row === null || $row['kind'] !== 'mesh' ? null : $row['transform'],
            ];
        }

        return response()->json([
            'title' => $delivery->title(), 'receiver' => $delivery->receiver(), 'by' => $context->by, 'at' => $context->at->format(DATE_ATOM), 'expiresAt' => $link->expires_at->toIso8601String(), 'unit' => $delivery->brief()->unit->value, 'up' => $delivery->brief()->up,
            'scaleConfirmedBy' => $delivery->scale()['by'] ?? null, 'parts' => $parts, 'measurements' => array_map(self::measurement(...), $context->measurements),
            'files' => array_map(fn (array $file) => ['name' => $file['name'], 'size' => $file['size'], 'sha256' => $file['sha256']], $delivery->files()),
        ], 200, self::HIDDEN);
    }

    /** The geometry of a part, for the view. */
    public function part(string $token, int $number, Workbench $workbench, BlobStore $blobs): BinaryFileResponse
    {
        [$delivery, $bodies] = self::delivery(self::opened($token), $workbench);
        $row = $bodies[$delivery->parts()[$number]['body'] ?? ''] ?? null;
        abort_if($row === null, 404, 'There is no such part in this delivery.');

        return new BinaryFileResponse($blobs->path($row['blob']), 200, ['Content-Type' => 'application/octet-stream'] + self::HIDDEN);
    }

    /** A file of the delivery, as it was written then. */
    public function file(Request $request, string $token, int $number, Workbench $workbench): Response
    {
        $link = self::opened($token);
        $file = self::delivery($link, $workbench)[0]->files()[$number] ?? null;
        abort_if($file === null, 404, 'There is no such file in this delivery.');
        self::record($request, $link, $file['name']);
        $dot = (int) strrpos($file['name'], '.');

        return DeliveryController::file((string) base64_decode($file['bytes'], true), 'application/octet-stream', DeliveryController::fileName(substr($file['name'], 0, $dot), substr($file['name'], $dot + 1)));
    }

    /** The report, or all in one zip. */
    public function report(Request $request, string $token, Workbench $workbench, Handover $handover): Response
    {
        $format = Border::sent($request)['format'];
        $link = self::opened($token);
        [$delivery] = self::delivery($link, $workbench);
        self::record($request, $link, $format === 'zip' ? 'all files' : 'the report');

        return DeliveryController::file($handover->bytes($link->step, $delivery, $format), DeliveryController::OF_DELIVERIES[$format], DeliveryController::fileName($delivery->title().($format === 'zip' ? '' : ', report'), $format));
    }

    /** The link of a token, as long as it is open; in words why not. */
    private static function opened(string $token): ReceiverLink
    {
        $link = ReceiverLink::ofToken($token)->with('step.user')->first();
        // Who guesses learns nothing: a token that never was and links that are turned off answer alike.
        abort_if($link === null || ! Setting::isOn(Setting::RECEIVER_LINKS), 404, 'There is nothing at this address. Look whether all of it was copied, or ask whoever sent it to you.');
        $state = $link->state();
        abort_if($state === 'closed', 410, "This link has been closed. Ask $link->made_by for a new one.");
        abort_if($state === 'expired', 410, 'This link was open until '.$link->expires_at->format('j F Y').". Ask $link->made_by for a new one.");

        return $link;
    }

    /** @return array{HandedOver, array<string, array<string, mixed>>} what was handed over, and the bodies as they were, by id */
    private static function delivery(ReceiverLink $link, Workbench $workbench): array
    {
        // A delivery holds all its files, and is read as one.
        ini_set('memory_limit', '2G');
        $snapshot = Step::current($link->step->snapshot ?? []);
        $row = array_column($snapshot['artefacts'], null, 'id')[$link->artefact] ?? null;
        abort_if($row === null, 410, "What was handed over here is not kept any more. Ask $link->made_by for it.");

        return [HandedOver::of($workbench->artefact($row)), array_column($snapshot['bodies'], null, 'id')];
    }

    /**
     * @param  array<string, mixed>  $measurement  see HandoverContext
     * @return array<string, mixed>
     */
    private static function measurement(array $measurement): array
    {
        return ['name' => $measurement['name'], 'words' => (string) ($measurement['words'] ?? ''), 'verdict' => $measurement['verdict'] ?? null, 'line' => $measurement['line'] ?? []];
    }

    private static function record(Request $request, ReceiverLink $link, string $took): void
    {
        $link->visits()->create(['took' => mb_substr($took, 0, 255), 'address' => $request->ip(), 'browser' => BrowserName::of((string) $request->userAgent())]);
    }
}
