<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Who looks after the installation, when a capture was last fed or steered, and names as long as they may be everywhere. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('users', fn (Blueprint $table) => $table->boolean('is_keeper')->default(false));
        Schema::table('captures', fn (Blueprint $table) => $table->timestamp('active_at')->nullable());
        Schema::table('projects', fn (Blueprint $table) => $table->string('name', 200)->change());
    }

    public function down(): void
    {
        Schema::table('users', fn (Blueprint $table) => $table->dropColumn('is_keeper'));
        Schema::table('captures', fn (Blueprint $table) => $table->dropColumn('active_at'));
    }
};
