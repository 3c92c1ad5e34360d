"""Small simulated services that stand in for outside ones, each speaking the open protocol of the real thing."""
