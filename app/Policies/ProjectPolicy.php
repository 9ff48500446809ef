<?php

declare(strict_types=1);

namespace App\Policies;

use App\Models\Project;
use App\Models\User;

/** Who may work on a project: its owner and its members. */
final class ProjectPolicy
{
    /** Owner and invited people see and change a project. */
    public function work(User $user, Project $project): bool
    {
        return $project->isVisibleTo($user);
    }
}
