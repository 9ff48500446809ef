<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\Services\SpaceTaken;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

/** Where somebody is signed in, and, for who looks after the installation, what takes its space. */
final class AccountController
{
    public function show(Request $request, SpaceTaken $space): JsonResponse
    {
        $user = $this->user($request);

        return response()->json([
            'name' => $user->name, 'email' => $user->email,
            'sessions' => $this->sessions($request, $user),
            'space' => $user->is_keeper ? $space->report() : null,
        ]);
    }

    /** Ends a session. Remembered machines ask for the password again, or the one that was ended would come back by itself. */
    public function end(Request $request, string $session): JsonResponse
    {
        $user = $this->user($request);
        $ids = DB::table('sessions')->where('user_id', $user->id)->pluck('id')->filter(fn (string $id) => self::nameOf($id) === $session);
        abort_if($ids->isEmpty(), 404, 'That session has ended already.');
        DB::table('sessions')->whereIn('id', $ids)->delete();
        $user->setRememberToken(Str::random(60));
        $user->save();

        return response()->json(['sessions' => $this->sessions($request, $user)]);
    }

    /** @return list<array{name: string, browser: string, address: string|null, seenAt: string, isThis: bool}> the latest first */
    private function sessions(Request $request, User $user): array
    {
        // Older ones have lapsed and are not removed yet.
        $rows = DB::table('sessions')->where('user_id', $user->id)->where('last_activity', '>', now()->subMinutes((int) config('session.lifetime'))->getTimestamp())->orderByDesc('last_activity')->limit(100)->get(['id', 'ip_address', 'user_agent', 'last_activity']);

        return array_values($rows->map(fn (object $row) => [
            'name' => self::nameOf($row->id), 'browser' => self::browser((string) $row->user_agent), 'address' => $row->ip_address,
            'seenAt' => now()->setTimestamp((int) $row->last_activity)->toIso8601String(), 'isThis' => $row->id === $request->session()->getId(),
        ])->all());
    }

    /** What a session is called outside: its id is the key to it. */
    private static function nameOf(string $id): string
    {
        return substr(hash('sha256', $id), 0, 32);
    }

    /** A browser and a system, as far as the browser says so of itself. */
    private static function browser(string $agent): string
    {
        $first = function (array $names, string $other) use ($agent): string {
            foreach ($names as $sign => $name) {
                if (str_contains($agent, $sign)) {
                    return $name;
                }
            }

            return $other;
        };
        // Each says the names of those before it as well: the first that fits here is the right one.
        $browser = $first(['Edg/' => 'Edge', 'OPR/' => 'Opera', 'Firefox/' => 'Firefox', 'Chrome/' => 'Chrome', 'Safari/' => 'Safari'], 'A browser');
        $system = $first(['Android' => 'Android', 'iPhone' => 'iPhone', 'iPad' => 'iPad', 'Windows' => 'Windows', 'Mac OS X' => 'macOS', 'Linux' => 'Linux'], 'another system');

        return "$browser on $system";
    }

    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
