<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** A key that the window gives each step it asks for: the same one asked for twice is one step. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            $table->uuid('request_key')->nullable();
            $table->unique(['project_id', 'request_key']);
        });
    }

    public function down(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            $table->dropUnique(['project_id', 'request_key']);
            $table->dropColumn('request_key');
        });
    }
};
