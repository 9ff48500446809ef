<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Setting;
use App\Models\User;
use App\Services\BrowserName;
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
            'settings' => $user->is_keeper ? self::settings() : null,
        ]);
    }

    /** Turns something of the installation on or off: for those who look after it. */
    public function set(Request $request): JsonResponse
    {
        $data = Border::sent($request);
        abort_unless($this->user($request)->is_keeper, 403, 'Only whoever looks after this installation may change that.');
        Setting::turn(Setting::RECEIVER_LINKS, $data['receiverLinks']);

        return response()->json(self::settings());
    }

    /** @return array{receiverLinks: bool} */
    private static function settings(): array
    {
        return ['receiverLinks' => Setting::isOn(Setting::RECEIVER_LINKS)];
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
            'name' => self::nameOf($row->id), 'browser' => BrowserName::of((string) $row->user_agent), 'address' => $row->ip_address,
            'seenAt' => now()->setTimestamp((int) $row->last_activity)->toIso8601String(), 'isThis' => $row->id === $request->session()->getId(),
        ])->all());
    }

    /** What a session is called outside: its id is the key to it. */
    private static function nameOf(string $id): string
    {
        return substr(hash('sha256', $id), 0, 32);
    }

    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
