<?php

declare(strict_types=1);

use App\Http\Controllers\ReceivedController;
use Illuminate\Support\Facades\Route;

// What receivers see without an account: no session, a token a link. The limit keeps anybody from trying tokens, and one receiver from holding up the shop.
Route::middleware('throttle:received')->group(function (): void {
    Route::get('received/{token}', [ReceivedController::class, 'page'])->where('token', '[0-9a-f]{64}');
    Route::prefix('api/received/{token}')->where(['token' => '[0-9a-f]{64}', 'number' => '[0-9]{1,4}'])->group(function (): void {
        Route::get('', [ReceivedController::class, 'show']);
        Route::get('parts/{number}', [ReceivedController::class, 'part']);
        Route::get('files/{number}', [ReceivedController::class, 'file']);
        Route::get('report', [ReceivedController::class, 'report']);
    });
});
