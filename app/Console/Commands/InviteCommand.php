<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Models\Project;
use App\Models\User;
use Illuminate\Console\Command;
use Illuminate\Support\Str;

/** Lets a user work on somebody's project: emberstone:invite. */
final class InviteCommand extends Command
{
    protected $signature = 'emberstone:invite {project : the id, as in the address of its page} {email}';

    protected $description = 'Lets a user see and work on a project of somebody else';

    public function handle(): int
    {
        $id = (string) $this->input->getArgument('project');
        $project = Str::isUuid($id) ? Project::query()->find($id) : null;
        $email = (string) $this->input->getArgument('email');
        $user = User::query()->where('email', $email)->first();
        if ($project === null || $user === null) {
            $this->error($project === null ? "There is no project $id." : "There is no user $email; make one with emberstone:user.");

            return self::INVALID;
        }
        $project->welcome($user);
        $this->info("{$user->name} can work on \"{$project->name}\".");

        return self::SUCCESS;
    }
}
