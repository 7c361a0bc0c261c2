using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace PostTide.Store;

/// <summary>Lets the migration tool make a context; it never connects.</summary>
public sealed class DesignTime : IDesignTimeDbContextFactory<PostTideContext>
{
    public PostTideContext CreateDbContext(string[] args)
    {
        var options = new DbContextOptionsBuilder<PostTideContext>();
        PostTideContext.Configure(options, "Host=127.0.0.1;Database=posttide");
        return new PostTideContext(options.Options);
    }
}
