<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Validation\ValidationException;

/** Signing in and out. */
final class SignInController
{
    public function show(): View
    {
        return view('sign-in');
    }

    public function enter(Request $request): RedirectResponse
    {
        $data = array_diff_key(Border::sent($request), ['remember' => 1]);
        if (! Auth::attempt($data, $request->boolean('remember'))) {
            throw ValidationException::withMessages(['email' => 'No user has this address and password. Check both, or ask whoever looks after this installation.']);
        }
        $request->session()->regenerate();

        return redirect()->intended('/');
    }

    public function leave(Request $request): RedirectResponse
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/sign-in');
    }
}
