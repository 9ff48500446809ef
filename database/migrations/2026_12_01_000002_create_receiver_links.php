<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What the keepers of an installation have turned on or off.
        Schema::create('settings', function (Blueprint $table): void {
            $table->string('name', 60)->primary();
            $table->boolean('is_on');
            $table->timestamps();
        });
        Schema::create('receiver_links', function (Blueprint $table): void {
            $table->uuid('id')->primary();
            $table->foreignUuid('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('step_id')->constrained()->cascadeOnDelete();
            $table->uuid('artefact');
            $table->char('token_hash', 64)->unique();
            $table->string('made_by');
            $table->timestamp('expires_at');
            $table->timestamp('closed_at')->nullable();
            $table->timestamps();
        });
        Schema::create('receiver_visits', function (Blueprint $table): void {
            $table->id();
            $table->foreignUuid('receiver_link_id')->constrained()->cascadeOnDelete();
            $table->string('took');
            $table->string('address', 45)->nullable();
            $table->string('browser', 80);
            $table->timestamp('created_at');
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('receiver_visits');
        Schema::dropIfExists('receiver_links');
        Schema::dropIfExists('settings');
    }
};
