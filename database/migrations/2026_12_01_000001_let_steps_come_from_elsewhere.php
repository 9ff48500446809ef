<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            // Of a step from a project file: the project and the step there, by which it names what it makes, and who took it.
            $table->string('made_as', 60)->nullable();
            $table->string('by_name')->nullable();
        });
    }

    public function down(): void
    {
        Schema::table('steps', fn (Blueprint $table) => $table->dropColumn(['made_as', 'by_name']));
    }
};
