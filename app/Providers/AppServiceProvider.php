<?php

declare(strict_types=1);

namespace App\Providers;

use App\Services\BlobStore;
use Emberstone\Core\Exchange\ReadApart;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\ServiceProvider;

/** What the application binds when it starts: the blob store, the readers, the limits of what may be asked without an account. */
final class AppServiceProvider extends ServiceProvider
{
    public function register(): void
    {
        // Laravel's own route to files on disk; ours go through BlobController and DeliveryController.
        config(['filesystems.disks.local.serve' => false]);
        $this->app->bind(ReadApart::class, fn () => new ReadApart);
        $this->app->singleton(BlobStore::class, fn () => new BlobStore(storage_path('blobs')));
    }

    public function boot(): void
    {
        Model::shouldBeStrict();
        // Guesses at one account from one address, and at many accounts from one address. Whoever knows the password is let in from elsewhere meanwhile.
        RateLimiter::for('sign-in', function (Request $request): array {
            $refuse = fn (): RedirectResponse => back()->withErrors(['email' => 'Too many tries; wait a minute and try again.'])->withInput($request->only('email'));
            $account = mb_strtolower(is_string($request->input('email')) ? $request->input('email') : '');
            // Whoever knows the password comes in as often as they like.
            $failed = fn (): bool => ! Auth::check();

            return [Limit::perMinute(10)->by("$account {$request->ip()}")->after($failed)->response($refuse), Limit::perMinute(60)->by((string) $request->ip())->after($failed)->response($refuse)];
        });
        // Enough for somebody who looks at a part and takes its files.
        RateLimiter::for('received', fn (Request $request) => Limit::perMinute(120)->by('received '.$request->ip()));
    }
}
