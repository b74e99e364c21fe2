"""Measurements that open a gate, choose a part or carry an uncertainty."""
