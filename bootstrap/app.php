<?php

declare(strict_types=1);

use App\Http\Middleware\BoundedInput;
use App\Http\Middleware\SecurityHeaders;
use App\Models\Capture;
use App\Services\DiskSpace;
use App\Services\LostConnection;
use App\Services\StepSweep;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\Http\Request;
use Illuminate\Routing\Middleware\SubstituteBindings;
use Illuminate\Session\Middleware\AuthenticateSession;
use Illuminate\Support\Facades\Route;
use Illuminate\Validation\ValidationException;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;

$application = Application::configure(basePath: dirname(__DIR__))
    ->withRouting(web: __DIR__.'/../routes/web.php', api: __DIR__.'/../routes/bridge.php', apiPrefix: 'bridge', then: fn () => Route::middleware(SubstituteBindings::class)->group(__DIR__.'/../routes/received.php'))
    ->withCommands([__DIR__.'/../app/Console/Commands'])
    ->withSchedule(function (Schedule $schedule): void {
        $schedule->command('emberstone:sweep')->hourly();
        $schedule->call(fn (StepSweep $sweep) => $sweep->everywhere())->everyTenSeconds();
        $schedule->call(fn () => Capture::expire())->everyMinute();
        $schedule->command('emberstone:verify --pause=50')->weekly()->runInBackground();
    })
    ->withMiddleware(function (Middleware $middleware): void {
        // Same origin only; see compat/README.md.
        $middleware->remove(HandleCors::class);
        $middleware->append(SecurityHeaders::class);
        $middleware->prepend(BoundedInput::class);
        // A new password ends every session that began with the old one.
        $middleware->web(append: [AuthenticateSession::class]);
        $middleware->redirectGuestsTo('/sign-in');
        // Behind a proxy with HTTPS: its address or * (EMBERSTONE_PROXY), so that addresses and limits are those of the people behind it.
        $proxy = getenv('EMBERSTONE_PROXY');
        if (is_string($proxy) && $proxy !== '') {
            $middleware->trustProxies(at: $proxy === '*' ? '*' : explode(',', $proxy));
        }
    })
    ->withExceptions(function (Exceptions $exceptions): void {
        $exceptions->shouldRenderJsonWhen(fn (Request $request) => $request->is('api/*', 'bridge/*') || $request->expectsJson());
        // What passes by itself, or goes when there is room, is no error of ours: it says so, and the window asks again.
        $exceptions->render(function (Throwable $problem, Request $request) {
            [$status, $message] = match (true) {
                LostConnection::isReasonOf($problem) => [503, 'The database is away for a moment, perhaps restarting. Nothing was changed; try again in a minute.'],
                $problem instanceof HttpExceptionInterface || $problem instanceof ValidationException => [0, ''],
                app(DiskSpace::class)->isReasonOf($problem) => [507, 'The disk of this machine is full, so that could not be stored. Nothing was changed; delete projects that are done with, or tell whoever looks after this installation.'],
                default => [0, ''],
            };
            if ($status === 0) {
                return null;
            }

            return $request->is('api/*', 'bridge/*') || $request->expectsJson() ? response()->json(['message' => $message], $status) : response($message, $status, ['Content-Type' => 'text/plain; charset=utf-8']);
        });
        $exceptions->dontReport([InvalidParameter::class, UnsuitableInput::class]);
        $exceptions->render(fn (InvalidParameter $problem) => response()->json(['message' => ucfirst($problem->getMessage()).'.', 'parameter' => $problem->parameter], 422));
        $exceptions->render(fn (UnsuitableInput $problem) => response()->json(['message' => $problem->getMessage(), 'highlight' => $problem->highlight], 422));
    })
    ->create();

// Everything that is written at run time lives in var/, the environment file included.
$application->useStoragePath(getenv('EMBERSTONE_STORAGE') ?: dirname(__DIR__).'/var/storage');
$application->useEnvironmentPath(getenv('EMBERSTONE_ENV') ?: dirname(__DIR__).'/var');

return $application;
