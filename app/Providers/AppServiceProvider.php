<?php

declare(strict_types=1);

namespace App\Providers;

use App\Services\BlobStore;
use Emberstone\Core\Exchange\ReadApart;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\ServiceProvider;

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
    }
}
