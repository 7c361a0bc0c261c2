using Microsoft.AspNetCore.Identity;

namespace PostTide.Store.Records;

/// <summary>A person who can sign in.</summary>
public sealed class Person : IdentityUser<long>
{
    public string DisplayName { get; set; } = "";
}

/// <summary>Something a person did, for the record. Only ever added to.</summary>
public sealed class AuditEntry
{
    public long Id { get; set; }
    public DateTimeOffset At { get; set; }
    public required string Person { get; set; }
    public required string What { get; set; }
}
