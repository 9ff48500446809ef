<?php

declare(strict_types=1);

use App\Http\Controllers\BridgeController;
use Illuminate\Support\Facades\Route;

// What a scanner's bridge speaks to: no session, a token a capture (docs/capture-protocol.md).
Route::prefix('captures/{id}')->whereUuid('id')->group(function (): void {
    Route::get('', [BridgeController::class, 'look']);
    Route::post('frames', [BridgeController::class, 'frame']);
    Route::post('end', [BridgeController::class, 'end']);
});
