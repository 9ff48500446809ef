<?php

declare(strict_types=1);

use App\Http\Border\OpenApi;
use App\Http\Controllers\AccountController;
use App\Http\Controllers\BlobController;
use App\Http\Controllers\CaptureController;
use App\Http\Controllers\DeliveryController;
use App\Http\Controllers\FixtureController;
use App\Http\Controllers\ItemController;
use App\Http\Controllers\MemberController;
use App\Http\Controllers\PreviewController;
use App\Http\Controllers\ProjectController;
use App\Http\Controllers\ReceiverLinkController;
use App\Http\Controllers\SignInController;
use App\Http\Controllers\StepController;
use App\Http\Controllers\UploadController;
use Emberstone\Core\Recipe\Catalogue;
use Illuminate\Support\Facades\Route;

Route::get('/sign-in', [SignInController::class, 'show'])->name('login')->middleware('guest');
Route::post('/sign-in', [SignInController::class, 'enter'])->middleware(['guest', 'throttle:sign-in']);

Route::middleware('auth')->group(function (): void {
    Route::post('/sign-out', [SignInController::class, 'leave']);
    Route::view('/', 'app');
    Route::view('/account', 'app');
    Route::view('/projects/{id}', 'app')->whereUuid('id');

    Route::prefix('api')->group(function (): void {
        Route::get('openapi.json', fn () => response()->json(OpenApi::description()));
        Route::get('operations', fn () => response()->json(Catalogue::describe()));
        Route::get('account', [AccountController::class, 'show']);
        Route::delete('account/sessions/{session}', [AccountController::class, 'end'])->where('session', '[0-9a-f]{32}');
        Route::patch('account/settings', [AccountController::class, 'set']);
        Route::get('fixtures', [FixtureController::class, 'index']);
        Route::get('projects', [ProjectController::class, 'index']);
        Route::post('projects', [ProjectController::class, 'store']);

        // What stands behind a project in the address must be its own.
        Route::middleware('can:work,project')->prefix('projects/{project}')->whereUuid('project')->scopeBindings()->group(function (): void {
            // Polled: what has not changed since is not sent again.
            Route::get('', [ProjectController::class, 'show'])->middleware('cache.headers:private;no_cache;etag');
            Route::patch('', [ProjectController::class, 'update']);
            Route::delete('', [ProjectController::class, 'destroy']);
            Route::post('steps', [StepController::class, 'store']);
            Route::post('steps/{step}/stop', [StepController::class, 'stop'])->whereNumber('step');
            Route::post('steps/{step}/keep', [StepController::class, 'keep'])->whereNumber('step');
            Route::delete('trials', [StepController::class, 'forgetTrials']);
            Route::post('steps/{step}/again', [StepController::class, 'again'])->whereNumber('step');
            Route::post('steps/{step}/rerun', [StepController::class, 'rerun'])->whereNumber('step');
            Route::post('captures', [CaptureController::class, 'store']);
            Route::post('captures/{capture}/command', [CaptureController::class, 'command'])->whereUuid('capture');
            Route::get('captures/{capture}/coverage', [CaptureController::class, 'coverage'])->whereUuid('capture');
            Route::post('members', [MemberController::class, 'store']);
            Route::delete('members/{member}', [MemberController::class, 'destroy'])->whereNumber('member');
            Route::post('undo', [StepController::class, 'undo']);
            Route::post('redo', [StepController::class, 'redo']);
            Route::post('estimate', [PreviewController::class, 'estimate']);
            Route::post('datum-preview', [PreviewController::class, 'datum']);
            Route::post('datum-kind', [PreviewController::class, 'kind']);
            Route::post('measure-preview', [PreviewController::class, 'measure']);
            Route::post('length-preview', [PreviewController::class, 'lengths']);
            Route::post('pair-preview', [PreviewController::class, 'pairs']);
            Route::post('frame-preview', [PreviewController::class, 'frame']);
            Route::get('frame-check', [PreviewController::class, 'check']);
            Route::get('blobs/{hash}', [BlobController::class, 'show'])->where('hash', '[0-9a-f]{64}');
            Route::get('blobs/{hash}/every/{every}', [BlobController::class, 'every'])->where('hash', '[0-9a-f]{64}')->whereNumber('every');
            Route::get('pictures/{hash}', [BlobController::class, 'picture'])->where('hash', '[0-9a-f]{64}');
            Route::put('pictures/{hash}', [BlobController::class, 'keepPicture'])->where('hash', '[0-9a-f]{64}');
            Route::get('items/{item}/facts', [ItemController::class, 'facts'])->whereUuid('item');
            Route::get('steps/{step}/states', [StepController::class, 'states'])->whereNumber('step');
            Route::get('file', [DeliveryController::class, 'project']);
            Route::get('bodies/{body}/download', [DeliveryController::class, 'download'])->whereUuid('body');
            Route::get('artefacts/{artefact}/download', [DeliveryController::class, 'drawing'])->whereUuid('artefact');
            Route::get('links', [ReceiverLinkController::class, 'index']);
            Route::post('links', [ReceiverLinkController::class, 'store']);
            Route::delete('links/{link}', [ReceiverLinkController::class, 'close'])->whereUuid('link');
            Route::post('uploads', [UploadController::class, 'create']);
            Route::get('uploads/{upload}/columns', [UploadController::class, 'columns'])->whereUuid('upload');
            Route::match(['head'], 'uploads/{upload}', [UploadController::class, 'offset'])->whereUuid('upload');
            Route::patch('uploads/{upload}', [UploadController::class, 'append'])->whereUuid('upload');
        });
    });
});
