<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Models\User;
use Illuminate\Console\Command;
use Illuminate\Support\Str;

/** Makes a user, or gives one a new password: emberstone:user. */
final class UserCommand extends Command
{
    protected $signature = 'emberstone:user {email} {--name=} {--password=} {--keeper : looks after the installation, and sees what takes its space}';

    protected $description = 'Makes a user, or gives one a new password';

    public function handle(): int
    {
        $email = (string) $this->input->getArgument('email');
        if (filter_var($email, FILTER_VALIDATE_EMAIL) === false) {
            $this->error("\"$email\" is not an e-mail address.");

            return self::INVALID;
        }
        $password = $this->option('password') ?? $this->secret('Password');
        if (! is_string($password) || strlen($password) < 8) {
            $this->error('The password needs eight letters or more.');

            return self::INVALID;
        }
        $user = User::query()->updateOrCreate(['email' => $email], ['name' => $this->option('name') ?? strstr($email, '@', true), 'password' => $password, ...($this->option('keeper') ? ['is_keeper' => true] : [])]);
        // What remembers the old password lets nobody in any more.
        $user->setRememberToken(Str::random(60));
        $user->save();
        $this->info("$email can sign in.");

        return self::SUCCESS;
    }
}
